import { foldReference } from "../shared/fold-text.ts";
import { labelsOf, type Relation } from "./label-of.ts";
import type { Box, ReadPage } from "./page-lines.ts";
import { shapeOfValue } from "./read-paper.ts";
import type { ReadingField } from "./reading.ts";
import { habitsOf, type Spot, spotValues } from "./spot-values.ts";

/** Where a sender keeps a field, as it was seen on one confirmed paper. Places are shares of the page's size. */
export interface FieldPlace {
  readonly field: ReadingField;
  readonly page: "first" | "last";
  /** The label, folded; null when the value stands alone. */
  readonly label: string | null;
  readonly relation: Relation | null;
  readonly x: number;
  readonly y: number;
  readonly right: number;
  readonly shape: string;
}

/** What was learnt from several papers: a place with how often it held. */
export interface LayoutHint extends FieldPlace {
  readonly times: number;
}

const kinds: Partial<Record<ReadingField, Spot["kind"]>> = {
  documentNumber: "reference",
  orderReference: "reference",
  yourReference: "reference",
  customerNumber: "reference",
  batch: "reference",
  documentDate: "day",
  dueDate: "day",
  deliveryDate: "day",
  validUntil: "day",
  sailingDate: "day",
  net: "amount",
  tax: "amount",
  total: "amount",
};

/** Where on a page something was pointed at. */
export interface Pointed {
  readonly page: number;
  readonly box: Box;
}

/**
 * Where a confirmed value stands on its paper: at what was pointed at, else the place of that value that has a label, else the first. Null when the
 * value is not on the page, or a field of which no places are learnt.
 */
export function placeOfValue(
  pages: readonly ReadPage[],
  field: ReadingField,
  value: string,
  pointed: Pointed | null = null,
): FieldPlace | null {
  const kind = kinds[field];
  if (!kind) return null;
  const habits = habitsOf(pages);
  const same = (spot: Spot): boolean =>
    spot.kind === kind &&
    (kind === "reference" ? spot.values.some((v) => foldReference(v) === foldReference(value)) : spot.values.includes(value));
  const found = pages
    .filter((p) => p.isDrawn)
    .flatMap((page) =>
      spotValues(page, habits)
        .filter(same)
        .map((spot) => ({ page, spot, own: textBefore(page, spot) })),
    );
  const at = pointed ? found.filter((f) => f.page.number === pointed.page && overlap(f.spot.box, pointed.box) > 0) : found;
  const best = [...(at.length > 0 ? at : pointed ? [] : found)].sort((a, b) => Number(b.own !== null) - Number(a.own !== null))[0];
  if (!best) return null;
  const { page, spot, own } = best;
  const round = (n: number): number => Math.round(n * 1000) / 1000;
  return {
    field,
    page: page.number === pages.at(-1)?.number && page.number !== 1 ? "last" : "first",
    label: own?.folded ?? null,
    relation: own?.relation ?? null,
    x: round(spot.box[0] / page.width),
    y: round(spot.box[1] / page.height),
    right: round((spot.box[0] + spot.box[2]) / page.width),
    shape: shapeOfValue(spot.values[0] ?? ""),
  };
}

/** What stands before a value, whether or not it is a label we know: that is what is learnt. */
function textBefore(page: ReadPage, spot: Spot): { readonly folded: string; readonly relation: Relation } | null {
  // One that is usual is learnt as it is; else any words that stand there may be a label of this sender's.
  const label =
    labelsOf(page, spot, () => null)[0] ??
    labelsOf(page, spot, (folded) => (folded === "" ? null : { meaning: "documentNumber", certainty: 1 }))[0];
  return label && label.folded !== "" && label.folded.length <= 40 ? { folded: label.folded, relation: label.relation } : null;
}

function overlap(a: Box, b: Box): number {
  const width = Math.min(a[0] + a[2], b[0] + b[2]) - Math.max(a[0], b[0]);
  const height = Math.min(a[1] + a[3], b[1] + b[3]) - Math.max(a[1], b[1]);
  return width > 0 && height > 0 ? width * height : 0;
}

/** Places seen on several papers, put together: the same field, label and relation, or nearly the same place, is one that held so often. */
export function hintsOf(places: readonly FieldPlace[]): readonly LayoutHint[] {
  const hints: { hint: FieldPlace; times: number }[] = [];
  for (const place of places) {
    const same = hints.find(
      ({ hint }) =>
        hint.field === place.field &&
        hint.label === place.label &&
        hint.relation === place.relation &&
        hint.page === place.page &&
        (place.label !== null || (Math.abs(hint.x - place.x) < 0.06 && Math.abs(hint.y - place.y) < 0.04)),
    );
    if (same) {
      same.times++;
      // The latest paper says best where it stands now.
      same.hint = place;
    } else hints.push({ hint: place, times: 1 });
  }
  return hints.map(({ hint, times }) => ({ ...hint, times })).sort((a, b) => b.times - a.times);
}
