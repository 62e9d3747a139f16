import { type Grey, paperTone, shrink } from "./grey.ts";

/** Side of the squares that ink is counted in, dots at 200 an inch: about a millimetre, so that grain and specks do not count. */
const SQUARE = 8;
/** So much darker than the document is ink. Print that shines through from the other side stays below it. */
const INK_BELOW_PAPER = 48;
/** Left out on each side: scanners put shadows and punched holes there. */
const MARGIN_SHARE = 0.045;
/** A page with less of its squares inked than this is blank: one short word on A4 is about 0.0004. */
export const BLANK_INK = 0.00025;

/** A page at about 200 dots an inch in the squares that ink is counted in: made once for whatever is asked of its ink. */
export const inkSquares = (grey: Grey): Grey => shrink(grey, SQUARE);

/**
 * Share of a page's squares, without its margins, that have ink in them; 0 to 1. Ink within `known` boxes (in the page's dots) is not counted: what is left
 * is what the words known of a page do not explain.
 */
export function measureInk(small: Grey, known: readonly (readonly [number, number, number, number])[] = []): number {
  const limit = paperTone(small) - INK_BELOW_PAPER;
  const left = Math.round(small.width * MARGIN_SHARE);
  const top = Math.round(small.height * MARGIN_SHARE);
  const explained = new Uint8Array(small.width * small.height);
  for (const [x, y, width, height] of known)
    for (let row = Math.max(0, Math.floor(y / SQUARE) - 1); row <= Math.min(small.height - 1, Math.ceil((y + height) / SQUARE)); row++)
      for (
        let column = Math.max(0, Math.floor(x / SQUARE) - 1);
        column <= Math.min(small.width - 1, Math.ceil((x + width) / SQUARE));
        column++
      )
        explained[row * small.width + column] = 1;
  let inked = 0;
  let all = 0;
  for (let y = top; y < small.height - top; y++)
    for (let x = left; x < small.width - left; x++) {
      all++;
      const at = y * small.width + x;
      if (explained[at] === 0 && (small.data[at] ?? 255) < limit) inked++;
    }
  return all === 0 ? 0 : inked / all;
}

/** Whether nothing is on a page: hardly any ink, and no word was read on it. */
export function isBlank(page: { readonly ink: number | null; readonly words: number }): boolean {
  return page.words === 0 && page.ink !== null && page.ink < BLANK_INK;
}

const PRINT_WIDTH = 9;
const PRINT_HEIGHT = 8;

/**
 * What a page looks like, in 64 bits: for each of 8 × 8 places whether it is lighter than its right neighbour. Pictures of the same thing differ in
 * few bits, whatever their size and lightness. Signed, as databases keep it.
 */
export function pagePrint(grey: Grey): bigint {
  const cell = (column: number, row: number): number => {
    const [left, right] = [Math.floor((column * grey.width) / PRINT_WIDTH), Math.floor(((column + 1) * grey.width) / PRINT_WIDTH)];
    const [top, bottom] = [Math.floor((row * grey.height) / PRINT_HEIGHT), Math.floor(((row + 1) * grey.height) / PRINT_HEIGHT)];
    let sum = 0;
    for (let y = top; y < bottom; y += 2) for (let x = left; x < right; x += 2) sum += grey.data[y * grey.width + x] ?? 0;
    return sum / Math.max(1, (right - left) * (bottom - top));
  };
  let bits = 0n;
  for (let row = 0; row < PRINT_HEIGHT; row++) {
    const tones = Array.from({ length: PRINT_WIDTH }, (_, column) => cell(column, row));
    for (let column = 0; column + 1 < PRINT_WIDTH; column++)
      bits = (bits << 1n) | ((tones[column] ?? 0) > (tones[column + 1] ?? 0) ? 1n : 0n);
  }
  return BigInt.asIntN(64, bits);
}
