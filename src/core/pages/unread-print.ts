import { type Grey, paperTone, shrink } from "./grey.ts";
import type { Word } from "./page-text.ts";

/** Side of the squares that print is looked for in, dots at 200 an inch: letters of a word touch in these, words mostly do not. */
const SQUARE = 4;
/** So much darker than the document is print. */
const PRINT_BELOW_PAPER = 48;
/** How high a piece of print is, squares: lower are rules and specks, higher are frames and pictures. */
const HEIGHT_MIN = 3;
const HEIGHT_MAX = 25;
/** Wider pieces are rules and frames, squares. */
const WIDTH_MAX = 200;
/** A piece wider than this that fills less than half of its box is a rule that runs a little uphill, squares. */
const RULE_FROM = 30;
const RULE_FILL = 0.5;
/** Fewer squares are dirt. */
const SQUARES_MIN = 4;
/** White that is left around a piece, squares. */
const AROUND = 2;

/** White between pieces that are stacked, and around them, dots. */
const STACK_GAP = 16;

type Box = Word["box"];

/**
 * Boxes of what looks like print and lies in none of the boxes of the words that were read, in dots of the page, each with a little white around it. The
 * page stands upright at about 200 dots an inch. Rules, frames and pictures are left out.
 */
export function unreadPrint(grey: Grey, read: readonly Box[]): readonly Box[] {
  const small = shrink(grey, SQUARE);
  const { width, height } = small;
  const limit = paperTone(small) - PRINT_BELOW_PAPER;
  const dark = new Uint8Array(width * height);
  for (let i = 0; i < dark.length; i++) if ((small.data[i] ?? 255) < limit) dark[i] = 1;
  for (const [x, y, w, h] of read) {
    const [left, right] = [Math.max(0, Math.floor(x / SQUARE) - 1), Math.min(width - 1, Math.floor((x + w) / SQUARE) + 1)];
    const [top, bottom] = [Math.max(0, Math.floor(y / SQUARE) - 1), Math.min(height - 1, Math.floor((y + h) / SQUARE) + 1)];
    for (let row = top; row <= bottom; row++) dark.fill(0, row * width + left, row * width + right + 1);
  }
  const found: Box[] = [];
  const line: number[] = [];
  for (let start = 0; start < dark.length; start++) {
    if (dark[start] !== 1) continue;
    let [left, right, top, bottom, squares] = [width, 0, height, 0, 0];
    dark[start] = 0;
    line.push(start);
    for (let at = line.pop(); at !== undefined; at = line.pop()) {
      const [x, y] = [at % width, Math.floor(at / width)];
      squares++;
      left = Math.min(left, x);
      right = Math.max(right, x);
      top = Math.min(top, y);
      bottom = Math.max(bottom, y);
      for (let ny = Math.max(0, y - 1); ny <= Math.min(height - 1, y + 1); ny++)
        for (let nx = Math.max(0, x - 1); nx <= Math.min(width - 1, x + 1); nx++) {
          const next = ny * width + nx;
          if (dark[next] !== 1) continue;
          dark[next] = 0;
          line.push(next);
        }
    }
    const [wide, high] = [right - left + 1, bottom - top + 1];
    if (squares < SQUARES_MIN || high < HEIGHT_MIN || high > HEIGHT_MAX || wide > WIDTH_MAX) continue;
    if (wide > RULE_FROM && squares < RULE_FILL * wide * high) continue;
    const [x0, y0] = [Math.max(0, left - AROUND) * SQUARE, Math.max(0, top - AROUND) * SQUARE];
    found.push([
      x0,
      y0,
      Math.min(grey.width, (right + 1 + AROUND) * SQUARE) - x0,
      Math.min(grey.height, (bottom + 1 + AROUND) * SQUARE) - y0,
    ]);
  }
  return joinRows(found);
}

/** Pieces of one row that are no further apart than they are high, as one: what is parted by a point or a blank is one number or one saying. */
function joinRows(boxes: readonly Box[]): readonly Box[] {
  const joined: Box[] = [];
  for (const box of [...boxes].sort((a, b) => a[0] - b[0])) {
    const at = joined.findIndex((j) => {
      const high = Math.min(j[3], box[3]);
      const together = Math.min(j[1] + j[3], box[1] + box[3]) - Math.max(j[1], box[1]);
      return together > high / 2 && box[0] - (j[0] + j[2]) < high;
    });
    const there = joined[at];
    if (there) joined[at] = around(there, box);
    else joined.push(box);
  }
  return joined;
}

function around(a: Box, b: Box): Box {
  const [x, y] = [Math.min(a[0], b[0]), Math.min(a[1], b[1])];
  return [x, y, Math.max(a[0] + a[2], b[0] + b[2]) - x, Math.max(a[1] + a[3], b[1] + b[3]) - y];
}

/** Pieces of a page put one below the other, each a line of its own. */
export interface Stack {
  readonly grey: Grey;
  /** Brings a box on the stack back to the page; null when it lies in no piece. */
  readonly toPage: (box: Box) => Box | null;
}

/** Puts pieces of a page one below the other on white, so that whoever reads them need not find out how they are laid out. */
export function stackUp(grey: Grey, boxes: readonly Box[]): Stack {
  const width = Math.max(...boxes.map((b) => b[2])) + 2 * STACK_GAP;
  const tops: number[] = [];
  let height = STACK_GAP;
  for (const box of boxes) {
    tops.push(height);
    height += box[3] + STACK_GAP;
  }
  const data = new Uint8Array(width * height).fill(255);
  for (const [n, [x, y, w, h]] of boxes.entries())
    for (let row = 0; row < h; row++)
      data.set(grey.data.subarray((y + row) * grey.width + x, (y + row) * grey.width + x + w), ((tops[n] ?? 0) + row) * width + STACK_GAP);
  return {
    grey: { width, height, data },
    toPage: ([x, y, w, h]) => {
      const middle = y + h / 2;
      const n = tops.findLastIndex((top) => top <= middle);
      const piece = boxes[n];
      if (!piece || middle > (tops[n] ?? 0) + piece[3]) return null;
      return [x - STACK_GAP + piece[0], y - (tops[n] ?? 0) + piece[1], w, h];
    },
  };
}

/** Words of a first reading, and those of a second one that lie where the first read nothing. */
export function addUnread<T extends Word>(first: readonly T[], second: readonly T[]): readonly T[] {
  return [...first, ...second.filter((w) => !first.some((f) => overlap(f.box, w.box)))];
}

/** Of two readings of the same places the surer one of each place; what only one of them read stands. */
export function surest<T extends Word & { readonly sure: number }>(one: readonly T[], other: readonly T[]): readonly T[] {
  const weaker = new Set<T>();
  for (const a of one) for (const b of other) if (overlap(a.box, b.box)) weaker.add(a.sure >= b.sure ? b : a);
  return [...one, ...other].filter((w) => !weaker.has(w));
}

const overlap = (a: Box, b: Box): boolean => a[0] < b[0] + b[2] && b[0] < a[0] + a[2] && a[1] < b[1] + b[3] && b[1] < a[1] + a[3];
