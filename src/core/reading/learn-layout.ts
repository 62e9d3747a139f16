import { foldReference } from "../shared/fold-text.ts";
import { labelsOf, noneKnown, type Relation } from "./label-of.ts";
import type { LabelMeaning } from "./labels.ts";
import type { Box, ReadPage } from "./page-lines.ts";
import type { ReadingField } from "./reading.ts";
import { habitsOf, kindOfField, shapeOfValue, type Spot, spotValues } from "./spot-values.ts";

/** Where a sender keeps a field, as it was seen on one confirmed document. Places are shares of the page's size. */
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

/** A place with the document it was confirmed on: the places of one document are one sight of a layout. */
export interface SeenPlace extends FieldPlace {
  readonly paper: string;
}

/** What was learnt from several documents: a place with how often it held. */
export interface LayoutHint extends FieldPlace {
  readonly times: number;
}

/** Where on a page something was pointed at. */
export interface Pointed {
  readonly page: number;
  readonly box: Box;
}

/**
 * Where a confirmed value stands on its document: at what was pointed at, else the place of that value that has a label, else the first. Null when the
 * value is not on the page, or a field of which no places are learnt.
 */
export function placeOfValue(
  pages: readonly ReadPage[],
  field: ReadingField,
  value: string,
  pointed: Pointed | null = null,
): FieldPlace | null {
  const kind = kindOfField[field];
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
  // A label that plainly means another field is not this one's, however equal the values are; unless a person pointed there.
  const open = pointed ? at : found.filter((f) => f.own === null || f.own.means.length === 0 || f.own.means.includes(field));
  const worth = (f: (typeof found)[number]): number => (f.own === null ? 0 : f.own.means.includes(field) ? 2 : 1);
  const best = [...open].sort((a, b) => worth(b) - worth(a))[0];
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

/** A meaning that suits a kind of value, whatever it is. */
const anyMeaning: Readonly<Record<Spot["kind"], LabelMeaning>> = {
  reference: "documentNumber",
  day: "documentDate",
  amount: "total",
  iban: "iban",
  vatNumber: "vatNumber",
  mail: "name",
};

/** What stands before a value, whether or not it is a label we know: that is what is learnt. */
function textBefore(page: ReadPage, spot: Spot): TextBefore | null {
  const known = before.get(spot);
  if (known !== undefined) return known;
  const text = textBeforeOf(page, spot);
  before.set(spot, text);
  return text;
}
interface TextBefore {
  readonly folded: string;
  readonly relation: Relation;
  readonly means: readonly string[];
}
const before = new WeakMap<Spot, TextBefore | null>();

function textBeforeOf(page: ReadPage, spot: Spot): TextBefore | null {
  // One that is usual is learnt as it is; else any words that stand there may be a label of this sender's.
  const known = labelsOf(page, spot, noneKnown)[0];
  const label = known ?? labelsOf(page, spot, (folded) => (folded === "" ? [] : [{ meaning: anyMeaning[spot.kind], certainty: 1 }]))[0];
  if (!label || label.folded === "" || label.folded.length > 40) return null;
  return { folded: label.folded, relation: label.relation, means: (known?.meanings ?? []).map((m) => m.meaning) };
}

/** Share of the places of one earlier document that must be found on this one for it to be the same layout. */
const SAME_LAYOUT = 0.6;

/**
 * What earlier documents of a sender say of this one: hints from those that look the same, by how many of their places are found here again. A sender may
 * have several layouts, and a layout that changed gives no hints at all.
 */
export function hintsFor(pages: readonly ReadPage[], seen: readonly SeenPlace[]): readonly LayoutHint[] {
  if (seen.length === 0) return [];
  const habits = habitsOf(pages);
  const last = pages.at(-1)?.number;
  const spots = pages
    .filter((p) => p.isDrawn)
    .flatMap((page) => spotValues(page, habits).map((spot) => ({ page, spot, own: textBefore(page, spot) })));
  const fits = (place: FieldPlace): boolean =>
    spots.some(
      ({ page, spot, own }) =>
        spot.kind === kindOfField[place.field] &&
        (place.page === "last" ? page.number === last : page.number === 1) &&
        (place.label === null
          ? isThere(page, spot, place)
          : own !== null && own.relation === place.relation && own.folded === place.label && isNear(page, spot, place)),
    );
  const papers = new Map<string, SeenPlace[]>();
  for (const place of seen) papers.set(place.paper, [...(papers.get(place.paper) ?? []), place]);
  return hintsOf([...papers.values()].filter((places) => places.filter(fits).length >= SAME_LAYOUT * places.length).flat());
}

/** Whether a value stands where a place says, by either edge: columns are set flush left or flush right. */
export function isThere(page: ReadPage, spot: Spot, place: FieldPlace): boolean {
  const y = Math.abs(spot.box[1] / page.height - place.y) < 0.04;
  return (
    y && (Math.abs(spot.box[0] / page.width - place.x) < 0.06 || Math.abs((spot.box[0] + spot.box[2]) / page.width - place.right) < 0.02)
  );
}

/** Across the page a labelled value stays in its column; down the page it moves with the lines above it. */
function isNear(page: ReadPage, spot: Spot, place: FieldPlace): boolean {
  return Math.abs(spot.box[0] / page.width - place.x) < 0.12 || Math.abs((spot.box[0] + spot.box[2]) / page.width - place.right) < 0.04;
}

function overlap(a: Box, b: Box): number {
  const width = Math.min(a[0] + a[2], b[0] + b[2]) - Math.max(a[0], b[0]);
  const height = Math.min(a[1] + a[3], b[1] + b[3]) - Math.max(a[1], b[1]);
  return width > 0 && height > 0 ? width * height : 0;
}

/** Places seen on several documents, put together: the same field, label and relation, or nearly the same place, is one that held so often. */
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
      // The latest document says best where it stands now.
      same.hint = place;
    } else hints.push({ hint: place, times: 1 });
  }
  return hints.map(({ hint, times }) => ({ ...hint, times })).sort((a, b) => b.times - a.times);
}
