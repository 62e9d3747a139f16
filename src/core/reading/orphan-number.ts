import type { Label } from "./label-of.ts";
import type { LabelMeaning } from "./labels.ts";
import type { ReadPage } from "./page-lines.ts";
import type { Candidate } from "./read-paper.ts";
import type { Spot } from "./spot-values.ts";

interface Spotted {
  readonly spot: Spot;
  readonly page: ReadPage;
  readonly labels: readonly Label[];
}

/** Facts that stand in a list with a paper's number. */
const facts: ReadonlySet<LabelMeaning> = new Set([
  "documentDate",
  "customerNumber",
  "orderReference",
  "yourReference",
  "dueDate",
  "deliveryDate",
]);
/** Edges within so many points are one column. */
const FLUSH = 4;
/** Lines of a list that lie between a number and the facts it belongs to. */
const NEAR_LINES = 6;
/** Log-odds of a number that only its place speaks for; each fact further away counts less. */
const START = 0.9;
const NEXT_TO = 0.9;
const FIRST = 0.5;

/**
 * Numbers that lost their label: short ones such as "No." are what a scan loses first. One that stands alone in the column of a list of facts (date, order,
 * customer number) at the head of the page, with nothing before it, is probably the paper's own. Only of pictures: a page's own words lose nothing.
 */
export function orphanNumbers(spots: readonly Spotted[]): readonly Candidate[] {
  const onFirst = spots.filter(({ spot, page }) => page.number === 1 && page.fromPicture && spot.box[1] < page.height * 0.45);
  const listed = onFirst.filter(({ labels }) => labels[0]?.meanings.some((m) => facts.has(m.meaning)) ?? false);
  return onFirst.flatMap(({ spot, page, labels }): Candidate[] => {
    const value = spot.values[0];
    const phrase = (page.lines[spot.line] ?? [])[spot.phrase];
    if (spot.kind !== "reference" || value === undefined || labels.length > 0 || !/\d{2}/.test(value) || /^(19|20)\d\d$/.test(value))
      return [];
    // Alone in its phrase, and the last one of its line: addresses stand to the left of the list.
    if (
      !phrase ||
      phrase.words.length > 3 ||
      spot.count !== phrase.words.length ||
      (page.lines[spot.line] ?? []).length - 1 !== spot.phrase
    )
      return [];
    const beside = listed.filter(
      (l) =>
        Math.abs(l.spot.line - spot.line) <= NEAR_LINES &&
        l.spot !== spot &&
        (isFlush(l.spot.box[0], spot.box[0]) || isFlush(l.spot.box[0] + l.spot.box[2], spot.box[0] + spot.box[2])),
    );
    if (beside.length === 0) return [];
    const nearest = Math.min(...beside.map((l) => Math.abs(l.spot.line - spot.line)));
    const isFirst = beside.every((l) => l.spot.box[1] > spot.box[1]);
    return [{ spot, value, logit: START + (nearest <= 2 ? NEXT_TO : 0) + (isFirst ? FIRST : 0), label: null, learnt: false }];
  });
}

const isFlush = (a: number, b: number): boolean => Math.abs(a - b) <= FLUSH;
