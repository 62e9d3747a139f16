import type { Word } from "./page-text.ts";

/** A number of the second reading is whole where it is wider by this than what the first found in its place. */
const WIDER = 1.15;

/**
 * Brings two readings of the same page together. The first, sparse one finds every piece of print, but cuts numbers at their separators or loses
 * a piece of them; the second reads by columns and keeps numbers whole, but loses what stands alone. So the first one's words stand, but for numbers that
 * the second has whole, and what only the second found is added. A word is taken as it was read: nothing is put together from pieces.
 */
export function mergeWords<T extends Word>(sparse: readonly T[], columns: readonly T[]): readonly T[] {
  const taken: T[] = [];
  const gone = new Set<T>();
  for (const word of columns) {
    const there = sparse.filter((s) => overlap(s.box, word.box));
    if (there.length > 0) {
      if (!/\d/.test(word.text)) continue;
      const left = Math.min(...there.map((s) => s.box[0]));
      const right = Math.max(...there.map((s) => s.box[0] + s.box[2]));
      if (there.length === 1 && word.box[2] <= WIDER * (right - left)) continue;
    }
    taken.push(word);
    for (const s of there) gone.add(s);
  }
  return [...sparse.filter((s) => !gone.has(s)), ...taken];
}

const overlap = (a: Word["box"], b: Word["box"]): boolean =>
  a[0] < b[0] + b[2] && b[0] < a[0] + a[2] && a[1] < b[1] + b[3] && b[1] < a[1] + a[3];

/** Amounts on a page from which it is worth reading twice: numbers are what reading once breaks. */
const MONEY_FROM = 3;

/** Whether a page has sums of money on it, whole or in pieces. */
export function hasMoney(words: readonly { readonly text: string }[]): boolean {
  let found = 0;
  for (const { text } of words) if (/\d[.,:]\d{2}$/.test(text) || /^\d[\d.,]*[.,]$/.test(text)) if (++found >= MONEY_FROM) return true;
  return false;
}
