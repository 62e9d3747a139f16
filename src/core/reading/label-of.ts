import { foldLabel, type LabelMeaning, type Meaning, meaningsAtEnd, meaningsAtStart, meaningsOf } from "./labels.ts";
import { type Box, boxAround, type Phrase, type ReadPage } from "./page-lines.ts";
import { currencyOf, type Spot } from "./spot-values.ts";

/** Where a label stands to its value. */
export type Relation = "same" | "left" | "above";

/** A label near a value: what it says, and what that means for the value. */
export interface Label {
  readonly relation: Relation;
  /** As it stands on the page. */
  readonly text: string;
  readonly folded: string;
  readonly box: Box;
  readonly meanings: readonly Meaning[];
  /** 0 to 1: how near and how plainly it belongs to the value. */
  readonly nearness: number;
}

/** What a sender's own labels mean, as people confirmed it: of a folded label its meanings and how surely; none for one that nobody taught. */
export type KnownLabels = (folded: string) => readonly { readonly meaning: LabelMeaning; readonly certainty: number }[];

const figures = ["reference", "amount"] as const;
/** What kinds of values a label can announce; beside others it says nothing. */
const kindsOf: Readonly<Record<LabelMeaning, readonly Spot["kind"][]>> = {
  documentNumber: ["reference"],
  orderReference: ["reference"],
  yourReference: ["reference"],
  customerNumber: ["reference"],
  batch: ["reference"],
  otherNumber: figures,
  documentDate: ["day"],
  dueDate: ["day"],
  deliveryDate: ["day"],
  validUntil: ["day"],
  sailingDate: ["day"],
  otherDate: ["day"],
  net: ["amount"],
  tax: ["amount"],
  total: ["amount"],
  paid: ["amount"],
  otherAmount: ["amount"],
  iban: ["iban", "reference"],
  vatNumber: ["vatNumber", "reference"],
  name: [],
};

/** How much less a head of a column says of one value in it. */
const IN_COLUMN = 0.4;
/** Words of the longest label that is learnt. */
const LEARNT_WORDS = 4;
/** Words that stand between a label and its value and say nothing. */
const fillers = new Set([
  "is",
  "was",
  "from",
  "the",
  "of",
  "by",
  "on",
  "at",
  "am",
  "den",
  "der",
  "die",
  "das",
  "ist",
  "est",
  "de",
  "la",
  "au",
  "no",
  "nr",
  ":",
  "-",
  "–",
  "=",
  "#",
  "n",
  "n°",
  "no.",
]);

/**
 * The labels of a value, the nearest first: before it in its own phrase, in the phrase to the left, or above it. At most one of each; empty when it
 * stands alone. Every label given is on the page as it says (promise 8).
 */
export function labelsOf(page: ReadPage, spot: Spot, known: KnownLabels): readonly Label[] {
  if (known !== noneKnown) return labelsAt(page, spot, known);
  const kept = plainLabels.get(spot);
  if (kept) return kept;
  const labels = labelsAt(page, spot, known);
  plainLabels.set(spot, labels);
  return labels;
}

/** No labels beside the usual ones: what is asked so is asked several times of the same spot, and worked out once. */
export const noneKnown: KnownLabels = () => [];
const plainLabels = new WeakMap<Spot, readonly Label[]>();

function labelsAt(page: ReadPage, spot: Spot, known: KnownLabels): readonly Label[] {
  const labels: Label[] = [];
  const line = page.lines[spot.line] ?? [];
  const phrase = line[spot.phrase];
  if (!phrase) return [];
  const before = phrase.words.slice(0, spot.from);
  const suits = (label: Label | null): label is Label =>
    label !== null && label.meanings.some((m) => kindsOf[m.meaning].includes(spot.kind));
  const own = before.length > 0 ? labelFrom(phraseLike(before), "same", 1, known, "end") : null;
  if (suits(own)) labels.push(own);
  if (before.filter((w) => !isFigure(w.text)).length === 0) {
    const left = leftOf(line, spot.phrase);
    if (left) {
      const gap = spot.box[0] - (left.box[0] + left.box[2]);
      const found = labelFrom(left, "left", 1 - 0.35 * Math.min(1, gap / (page.width * 0.6)), known, "either");
      if (suits(found)) labels.push(found);
    }
    const above = labelAbove(page, spot, known);
    // In a column of several values the head names a list, not this paper's own.
    if (suits(above)) labels.push(isColumn(page, spot) ? { ...above, nearness: above.nearness * IN_COLUMN } : above);
  }
  return labels;
}

const isRate = (text: string): boolean => /^[(]?\d{1,2}([.,]\d{1,2})?\s?%?[)]?$|^%$/.test(text);
const isFigure = (text: string): boolean => /^[\d.,()%@/-]+$/.test(text) || currencyOf(text) !== null;

/** The phrase before one on its line, passing over those that only name a currency or a rate. */
function leftOf(line: readonly Phrase[], index: number): Phrase | null {
  for (let at = index - 1; at >= 0 && at >= index - 3; at--) {
    const phrase = line[at];
    if (!phrase) return null;
    if (!phrase.words.every((w) => currencyOf(w.text) !== null || /^[(]?\d{1,2}([.,]\d{1,2})?\s?%?[)]?$|^%$|^[:=]$/.test(w.text)))
      return phrase;
  }
  return null;
}

/** Whether the line below has a value of the same kind in the same column, and other columns beside it. */
function isColumn(page: ReadPage, spot: Spot): boolean {
  const next = page.lines[spot.line + 1] ?? [];
  const below = next.find((p) => p.box[0] < spot.box[0] + spot.box[2] && p.box[0] + p.box[2] > spot.box[0]);
  if (!below || next.length < 2 || below.box[1] - spot.box[1] > page.letter * 2.6) return false;
  return shapeOfSpot(below.text) === shapeOfSpot(spot.text);
}

/** Figures and letters of a value, however many. */
const shapeOfSpot = (text: string): string => text.replace(/\d+/g, "9").replace(/\p{L}+/gu, "a");

function labelAbove(page: ReadPage, spot: Spot, known: KnownLabels): Label | null {
  const [x, y, width] = spot.box;
  for (let at = spot.line - 1; at >= 0 && at >= spot.line - 3; at--) {
    const line = page.lines[at] ?? [];
    const top = line[0]?.box[1] ?? 0;
    if (y - top > page.letter * 4.2) return null;
    const over = line.filter((p) => p.box[0] < x + width && p.box[0] + p.box[2] > x);
    // Columns are set flush left or flush right; the one that shares an edge is this value's.
    const best = [...over].sort((a, b) => edgeGap(a.box, spot.box) - edgeGap(b.box, spot.box))[0];
    if (!best) continue;
    // Heads that stand close together run into one phrase: then the words right above the value are its label.
    const whole = meaningsOf(best.text).length > 0 || known(foldLabel(best.text)).length > 0;
    const right = best.words.filter((w) => w.box[0] < x + width + page.letter && w.box[0] + w.box[2] > x - page.letter);
    const label = labelFrom(
      whole || right.length === 0 ? best : { words: right },
      "above",
      at === spot.line - 1 ? 0.85 : 0.7,
      known,
      "whole",
    );
    if (!label) return null;
    if (spot.kind !== "amount") return label;
    // Above an amount stands the head of a column: only a row of sums has its sums named there.
    const heads = line.flatMap((p) => (p === best ? label.meanings : meaningsAtStart(p.words.map((w) => w.text)))).map((m) => m.meaning);
    const sums = new Set(heads.filter((m) => m === "net" || m === "tax" || m === "total"));
    return line.length >= 3 && sums.size < 2 ? null : label;
  }
  return null;
}

const edgeGap = (a: Box, b: Box): number => Math.min(Math.abs(a[0] - b[0]), Math.abs(a[0] + a[2] - b[0] - b[2]));

const phraseLike = (words: Phrase["words"]): Pick<Phrase, "words"> => ({ words });

function labelFrom(
  phrase: Pick<Phrase, "words">,
  relation: Relation,
  nearness: number,
  known: KnownLabels,
  where: "end" | "either" | "whole",
): Label | null {
  // One that has its value beside it already labels nothing else; a rate is no value.
  if (relation !== "same" && phrase.words.some((w) => /\d/.test(w.text) && !isRate(w.text))) return null;
  let words = phrase.words.filter((w) => !isFigure(w.text));
  if (words.length === 0) return null;
  // What was taught goes before what is usual: the whole text, else the end of it.
  const learnt = [words.length <= LEARNT_WORDS ? words : [], words.slice(-2), words.slice(-1)]
    .filter((w) => w.length > 0)
    .map((w) => ({ w, known: known(foldLabel(w.map((x) => x.text).join(" "))) }))
    .find((l) => l.known.length > 0);
  const make = (used: Phrase["words"], meanings: readonly Meaning[]): Label => ({
    relation,
    text: used.map((w) => w.text).join(" "),
    folded: foldLabel(used.map((w) => w.text).join(" ")),
    box: boxAround(used.map((w) => w.box)),
    meanings,
    nearness,
  });
  // Beside what it usually means, not in place of it.
  if (learnt)
    return make(learnt.w, [
      ...learnt.known.map((k) => ({ ...k, length: learnt.w.length })),
      ...meaningsOf(learnt.w.map((w) => w.text).join(" ")).filter((m) => !learnt.known.some((k) => k.meaning === m.meaning)),
    ]);
  const texts = (): readonly string[] => words.map((w) => w.text);
  for (let tries = 0; tries < 3 && words.length > 0; tries++) {
    const meanings = where === "whole" ? meaningsOfWhole(texts()) : meaningsAtEnd(texts());
    const found = meanings.length > 0 ? meanings : where === "either" && words.length <= 6 ? meaningsAtStart(texts()) : [];
    if (found.length > 0) return make(labelWords(words, meanings.length > 0), found);
    const last = foldLabel(words.at(-1)?.text ?? "");
    if (last !== "" && !fillers.has(last)) break;
    words = words.slice(0, -1);
  }
  return null;
}

/** The fewest words at the end (or beginning) of a run that are a label we know. */
function labelWords(words: Phrase["words"], atEnd: boolean): Phrase["words"] {
  const known = meaningsOf(words.map((w) => w.text).join(" "));
  if (known.length > 0) return words;
  let best = words;
  for (let count = 1; count <= words.length; count++) {
    const part = atEnd ? words.slice(-count) : words.slice(0, count);
    if (meaningsOf(part.map((w) => w.text).join(" ")).length > 0) best = part;
  }
  return best;
}

/** A head of a column or a line above: a label, with at most two words more than that. */
function meaningsOfWhole(words: readonly string[]): readonly Meaning[] {
  const [atStart, atEnd] = [meaningsAtStart(words), meaningsAtEnd(words)];
  const best = (atStart[0]?.length ?? 0) >= (atEnd[0]?.length ?? 0) ? atStart : atEnd;
  return best[0] && words.length <= best[0].length + 2 ? best : [];
}
