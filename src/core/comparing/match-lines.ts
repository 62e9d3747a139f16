import { foldReference, foldText } from "../shared/fold-text.ts";

/** A line as matching compares it. */
export interface Comparable {
  readonly item?: string | undefined;
  readonly text: string;
  readonly quantity: number | null;
  readonly price: number | null;
}

/** Lines less alike than this belong to each other only when nothing else does. */
const LIKE_FROM = 0.5;
/** Lines compared with each other; beyond it only the first ones are. */
const COMPARED_MAX = 400;

/**
 * Which line of one document is which line of another: pairs of indexes, each line once. By the article's number, by words (also abbreviated, misread or
 * in another order), by quantity and price. Pure; the same lines give the same pairs.
 */
export function matchLines(left: readonly Comparable[], right: readonly Comparable[]): ReadonlyMap<number, number> {
  const words = (lines: readonly Comparable[]) =>
    lines.slice(0, COMPARED_MAX).map((l) => ({ l, words: wordsOf(l.text), folded: foldReference(l.text) }));
  const [a, b] = [words(left), words(right)];
  const scored: { i: number; j: number; score: number }[] = [];
  a.forEach((x, i) =>
    b.forEach((y, j) => {
      const score = alike(x, y);
      if (score >= LIKE_FROM) scored.push({ i, j, score });
    }),
  );
  scored.sort((p, q) => q.score - p.score || Math.abs(p.i - p.j) - Math.abs(q.i - q.j) || p.i - q.i || p.j - q.j);
  const pairs = new Map<number, number>();
  const taken = new Set<number>();
  for (const { i, j } of scored) {
    if (pairs.has(i) || taken.has(j)) continue;
    pairs.set(i, j);
    taken.add(j);
  }
  return pairs;
}

interface Prepared {
  readonly l: Comparable;
  readonly words: readonly string[];
  readonly folded: string;
}

/** How alike two lines are, 0 to about 2. */
function alike(x: Prepared, y: Prepared): number {
  const item = x.l.item !== undefined && y.l.item !== undefined && foldReference(x.l.item) === foldReference(y.l.item) ? 1 : 0;
  // The article's number may stand within the words.
  const named =
    item === 0 &&
    [
      x.l.item && y.folded.includes(foldReference(x.l.item)) && foldReference(x.l.item).length >= 4,
      y.l.item && x.folded.includes(foldReference(y.l.item)) && foldReference(y.l.item).length >= 4,
    ].some(Boolean)
      ? 0.8
      : 0;
  const text = shared(x.words, y.words);
  if (item + named === 0 && text < 0.34) return 0;
  const price = x.l.price !== null && y.l.price !== null ? (Math.abs(x.l.price - y.l.price) < 0.006 ? 0.25 : 0) : 0;
  const quantity = x.l.quantity !== null && y.l.quantity !== null && x.l.quantity === y.l.quantity ? 0.2 : 0;
  return item + named + text + price + quantity;
}

function wordsOf(text: string): readonly string[] {
  return foldText(text)
    .split(/[^\p{L}\p{N}]+/u)
    .filter((w) => w.length > 1 || /\d/.test(w));
}

/** Share of words that two lines have in common, by the shorter one for the most part; a word begun counts for its whole. */
function shared(x: readonly string[], y: readonly string[]): number {
  if (x.length === 0 || y.length === 0) return 0;
  const left = [...y];
  let hits = 0;
  for (const word of x) {
    const at = left.findIndex((o) => o === word);
    const near = at !== -1 ? at : left.findIndex((o) => isBegun(word, o) || isMisread(word, o));
    if (near === -1) continue;
    hits += at !== -1 ? 1 : 0.8;
    left.splice(near, 1);
  }
  return 0.7 * (hits / Math.min(x.length, y.length)) + 0.3 * (hits / Math.max(x.length, y.length));
}

const isBegun = (a: string, b: string): boolean => Math.min(a.length, b.length) >= 3 && (a.startsWith(b) || b.startsWith(a));

/** One letter differs in a longer word. */
function isMisread(a: string, b: string): boolean {
  if (a.length !== b.length || a.length < 5) return false;
  let apart = 0;
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i] && ++apart > 1) return false;
  return true;
}
