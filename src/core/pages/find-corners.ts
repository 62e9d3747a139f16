import { type Grey, shrink } from "./grey.ts";

export interface Point {
  readonly x: number;
  readonly y: number;
}
/** Corners of a page on a photograph: top left, top right, bottom right, bottom left, as it lies. In dots. */
export type Corners = readonly [Point, Point, Point, Point];

/** Dots across that the search works on. */
const WORK_WIDTH = 240;
/** A page fills at least so much of the picture, and not all of it. */
const AREA_MIN = 0.12;
const AREA_MAX = 0.985;
/** What was found fills its four corners at least so far, or it is no page. */
const FILLED_MIN = 0.86;

/** The whole picture as corners. */
export const wholePicture = (width: number, height: number): Corners => [
  { x: 0, y: 0 },
  { x: width - 1, y: 0 },
  { x: width - 1, y: height - 1 },
  { x: 0, y: height - 1 },
];

/**
 * Finds the page on a photograph: the largest patch that is lighter than what it lies on, and its four corners. Null when there is no such patch, it
 * is too small, it is all of the picture, or it has not the shape of a page; then a person says where it is. Linear in the dots of a small copy.
 */
export function findCorners(grey: Grey): Corners | null {
  const factor = Math.max(1, Math.floor(Math.max(grey.width, grey.height) / WORK_WIDTH));
  const small = shrink(grey, factor);
  const patch = largestPatch(small, splitTone(small));
  const area = patch.length / small.data.length;
  if (area < AREA_MIN || area > AREA_MAX) return null;
  const at = (index: number): Point => ({ x: index % small.width, y: Math.floor(index / small.width) });
  const most = (weigh: (p: Point) => number): Point =>
    patch.reduce<Point>(
      (best, index) => {
        const p = at(index);
        return weigh(p) > weigh(best) ? p : best;
      },
      at(patch[0] ?? 0),
    );
  const corners: Corners = [most((p) => -p.x - p.y), most((p) => p.x - p.y), most((p) => p.x + p.y), most((p) => p.y - p.x)];
  const quad = areaOf(corners);
  if (quad <= 0 || patch.length / quad < FILLED_MIN || quad / small.data.length < AREA_MIN) return null;
  const large = (p: Point): Point => ({
    x: Math.min(grey.width - 1, (p.x + 0.5) * factor),
    y: Math.min(grey.height - 1, (p.y + 0.5) * factor),
  });
  return [large(corners[0]), large(corners[1]), large(corners[2]), large(corners[3])];
}

/** The tone that best splits a picture's dots into two (Otsu, 1979). */
function splitTone(grey: Grey): number {
  const counts = new Float64Array(256);
  for (const dot of grey.data) counts[dot] = (counts[dot] ?? 0) + 1;
  const all = grey.data.length;
  let sum = 0;
  for (let i = 0; i < 256; i++) sum += i * (counts[i] ?? 0);
  let [below, sumBelow, best, tone] = [0, 0, -1, 128];
  for (let i = 0; i < 256; i++) {
    below += counts[i] ?? 0;
    if (below === 0 || below === all) continue;
    sumBelow += i * (counts[i] ?? 0);
    const apart = sumBelow / below - (sum - sumBelow) / (all - below);
    const weight = below * (all - below) * apart * apart;
    if (weight > best) [best, tone] = [weight, i];
  }
  return tone;
}

/** Dots of the largest connected patch lighter than a tone, with what is enclosed by it: print on a page belongs to the page. */
function largestPatch(grey: Grey, tone: number): readonly number[] {
  const { width, height, data } = grey;
  const seen = new Uint8Array(data.length);
  let best: number[] = [];
  for (let start = 0; start < data.length; start++) {
    if (seen[start] === 1 || (data[start] ?? 0) <= tone) continue;
    const patch = flood(start, width, height, seen, (i) => (data[i] ?? 0) > tone);
    if (patch.length > best.length) best = patch;
  }
  // What the patch encloses: everything that the outside does not reach.
  const wall = new Uint8Array(data.length);
  for (const i of best) wall[i] = 1;
  const outside = new Uint8Array(data.length);
  for (let i = 0; i < data.length; i++) {
    const [x, y] = [i % width, Math.floor(i / width)];
    const atEdge = x === 0 || y === 0 || x === width - 1 || y === height - 1;
    if (atEdge && wall[i] === 0 && outside[i] === 0) flood(i, width, height, outside, (n) => wall[n] === 0);
  }
  if (best.length === 0) return best;
  const filled: number[] = [];
  for (let i = 0; i < data.length; i++) if (outside[i] === 0) filled.push(i);
  return filled;
}

function flood(start: number, width: number, height: number, seen: Uint8Array, fits: (index: number) => boolean): number[] {
  const found: number[] = [start];
  seen[start] = 1;
  for (let next = 0; next < found.length; next++) {
    const i = found[next] ?? 0;
    const x = i % width;
    for (const n of [x > 0 ? i - 1 : -1, x < width - 1 ? i + 1 : -1, i - width, i + width])
      if (n >= 0 && n < width * height && seen[n] === 0 && fits(n)) {
        seen[n] = 1;
        found.push(n);
      }
  }
  return found;
}

function areaOf(corners: Corners): number {
  let twice = 0;
  for (let i = 0; i < 4; i++) {
    const [a, b] = [corners[i], corners[(i + 1) % 4]];
    twice += (a?.x ?? 0) * (b?.y ?? 0) - (b?.x ?? 0) * (a?.y ?? 0);
  }
  return twice / 2;
}
