import type { Label } from "./label-of.ts";
import type { ReadPage } from "./page-lines.ts";
import type { Candidate } from "./read-paper.ts";
import type { ReadingDoubt, ReadingField } from "./reading.ts";
import type { Spot } from "./spot-values.ts";

/** Days a document may be dated after it came in: time zones, and those who date to the end of the month. */
const AHEAD_DAYS = 6;
/** Days back that a document is likely to be; older ones are possible. */
const BACK_DAYS = 400;

const apart = (a: string, b: string): number => Math.round((Date.parse(a) - Date.parse(b)) / 86_400_000);

/**
 * Days by field, with day and month told apart where something does: other days of the document, the day it came in, the order of its dates. What stays
 * open is said. The date of a document without a label is the first day that stands alone at its top.
 */
export function settleDays(
  byField: ReadonlyMap<ReadingField, readonly Candidate[]>,
  days: readonly { readonly spot: Spot; readonly page: ReadPage; readonly labels: readonly Label[] }[],
  pages: readonly ReadPage[],
  receivedOn: string,
  order: "dmy" | "mdy" | null,
): { readonly byField: ReadonlyMap<ReadingField, readonly Candidate[]>; readonly doubts: readonly ReadingDoubt[] } {
  const doubts: ReadingDoubt[] = [];
  const settled = new Map<ReadingField, Candidate[]>();
  const fields = ["documentDate", "dueDate", "deliveryDate", "validUntil", "sailingDate"] as const;
  for (const field of fields) settled.set(field, [...(byField.get(field) ?? [])]);
  const dates = settled.get("documentDate") ?? [];
  // One that no label claims: the higher it stands the likelier, and the fewer there are.
  const unclaimed = days.filter((d) => d.labels.length === 0 && d.page.number === 1 && d.spot.box[1] < d.page.height * 0.5);
  unclaimed.forEach((d, index) => {
    const value = d.spot.values[0];
    if (value === undefined || dates.some((c) => c.spot === d.spot)) return;
    const alone = (d.page.lines[d.spot.line] ?? [])[d.spot.phrase]?.words.length === d.spot.count;
    dates.push({
      spot: d.spot,
      value,
      logit: (alone ? 2.2 : 0.2) - index * 1.2 - (unclaimed.length > 2 ? 0.8 : 0) - (d.spot.mended ? 0.8 : 0),
      label: null,
      learnt: false,
    });
  });
  settled.set(
    "documentDate",
    dates.map((c) => {
      const ahead = apart(c.value, receivedOn);
      return { ...c, logit: c.logit - (ahead > AHEAD_DAYS && c.spot.values.length === 1 ? 1.5 : 0) - (ahead < -BACK_DAYS * 4 ? 1 : 0) };
    }),
  );
  if (order === null) {
    const document = best(settled.get("documentDate") ?? []);
    for (const field of fields) {
      const list = settled.get(field) ?? [];
      const top = best(list);
      if (!top || top.spot.values.length < 2) continue;
      const likely = top.spot.values.filter((v) =>
        isLikely(field, v, receivedOn, field === "documentDate" ? null : (document?.spot.values ?? null)),
      );
      const value = likely[0] ?? top.spot.values[0];
      if (likely.length !== 1) doubts.push({ code: "day-or-month", fields: [field], detail: top.spot.text });
      // Settled only by which of the two is likely: less sure than a day that is written plainly.
      const unusual = value !== undefined && value !== top.spot.values[0];
      if (value !== undefined)
        settled.set(
          field,
          list.map((c) => (c.spot.text === top.spot.text ? { ...c, value, logit: c.logit - (unusual ? 1.8 : 0.6) } : c)),
        );
    }
  }
  const date = best(settled.get("documentDate") ?? []);
  const due = best(settled.get("dueDate") ?? []);
  if (date && due && due.value < date.value && date.spot.values.length === 1 && due.spot.values.length === 1)
    doubts.push({ code: "due-before-date", fields: ["dueDate", "documentDate"], detail: `${due.spot.text}, ${date.spot.text}` });
  return { byField: settled, doubts };
}

const best = (list: readonly Candidate[]): Candidate | null => [...list].sort((a, b) => b.logit - a.logit)[0] ?? null;

function isLikely(field: ReadingField, value: string, receivedOn: string, document: readonly string[] | null): boolean {
  const ahead = apart(value, receivedOn);
  if (field === "documentDate") return ahead <= AHEAD_DAYS && ahead >= -BACK_DAYS;
  const from = document?.[0] ?? receivedOn;
  const after = apart(value, from);
  if (field === "dueDate") return after >= 0 && after <= 130;
  if (field === "deliveryDate") return Math.abs(after) <= 90;
  if (field === "validUntil") return after >= 0;
  return Math.abs(after) <= 200;
}
