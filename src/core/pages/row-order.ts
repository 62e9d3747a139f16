import type { Word } from "./page-text.ts";

/** Words whose middles lie within this share of their usual height of each other stand in one row. */
const ROW = 0.5;

/**
 * Words in the order of rows from the top, each from the left, as a person reads a form: sparse text is found piece by piece in no order at all. Words of
 * upright, straight pages; the same words in any order give the same order.
 */
export function inRowOrder<T extends Word>(words: readonly T[]): readonly T[] {
  const heights = words.map((w) => w.box[3]).sort((a, b) => a - b);
  const usual = heights[Math.floor(heights.length / 2)] ?? 0;
  const middle = (w: Word): number => w.box[1] + w.box[3] / 2;
  const sorted = [...words].sort((a, b) => middle(a) - middle(b) || a.box[0] - b.box[0] || (a.text < b.text ? -1 : 1));
  const rows: { middle: number; words: T[] }[] = [];
  for (const word of sorted) {
    const row = rows.at(-1);
    if (row && middle(word) - row.middle <= usual * ROW) row.words.push(word);
    else rows.push({ middle: middle(word), words: [word] });
  }
  return rows.flatMap((row) => row.words.sort((a, b) => a.box[0] - b.box[0] || (a.text < b.text ? -1 : 1)));
}
