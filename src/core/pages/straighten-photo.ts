import type { Corners, Point } from "./find-corners.ts";

/** A picture in colour: four numbers a dot (red, green, blue, opacity), row by row from the top left. */
export interface Colour {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8ClampedArray;
}

/** Longest side of what comes out, dots: A4 at 190 an inch. */
const SIDE_MAX = 2200;
/** A4 is this much longer than wide; what comes out nearly so is made exactly so: the more the page was seen aslant, the less its sides say. */
const A4_RATIO = Math.SQRT2;
const NEARLY = 0.02;
const NEARLY_ASLANT = 0.13;

const apart = (a: Point, b: Point): number => Math.hypot(a.x - b.x, a.y - b.y);

/** Size of the page that four corners on a photograph show, dots: as long as its longer sides, A4 where it is nearly that. */
export function pageSize(corners: Corners): { readonly width: number; readonly height: number } {
  const [a, b, c, d] = corners;
  let width = Math.max(apart(a, b), apart(d, c)) + 1;
  let height = Math.max(apart(a, d), apart(b, c)) + 1;
  const aslant = Math.abs(apart(a, b) - apart(d, c)) / width + Math.abs(apart(a, d) - apart(b, c)) / height;
  const nearly = NEARLY + Math.min(NEARLY_ASLANT, aslant);
  const ratio = Math.max(width, height) / Math.min(width, height);
  if (Math.abs(ratio - A4_RATIO) < nearly * A4_RATIO) {
    if (height > width) height = width * A4_RATIO;
    else width = height * A4_RATIO;
  }
  const shrink = Math.min(1, SIDE_MAX / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * shrink)), height: Math.max(1, Math.round(height * shrink)) };
}

/** The page between four corners of a photograph, seen from straight above. Each dot is taken from between its four neighbours. */
export function straighten(photo: Colour, corners: Corners): Colour {
  const { width, height } = pageSize(corners);
  const to = projection(corners, width, height);
  const data = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const w = to[6] * x + to[7] * y + 1;
      const px = Math.min(photo.width - 1.001, Math.max(0, (to[0] * x + to[1] * y + to[2]) / w));
      const py = Math.min(photo.height - 1.001, Math.max(0, (to[3] * x + to[4] * y + to[5]) / w));
      const [x0, y0] = [Math.floor(px), Math.floor(py)];
      const [fx, fy] = [px - x0, py - y0];
      const from = (y0 * photo.width + x0) * 4;
      const below = from + photo.width * 4;
      const out = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) {
        const upper = (photo.data[from + c] ?? 0) * (1 - fx) + (photo.data[from + 4 + c] ?? 0) * fx;
        const lower = (photo.data[below + c] ?? 0) * (1 - fx) + (photo.data[below + 4 + c] ?? 0) * fx;
        data[out + c] = upper * (1 - fy) + lower * fy;
      }
      data[out + 3] = 255;
    }
  return { width, height, data };
}

type Eight = readonly [number, number, number, number, number, number, number, number];

/** The projection from a rectangle to four corners (P. Heckbert, 1989): eight numbers of a homography, the ninth is 1. */
function projection(corners: Corners, width: number, height: number): Eight {
  const [p0, p1, p2, p3] = corners;
  const [dx1, dx2, dx3] = [p1.x - p2.x, p3.x - p2.x, p0.x - p1.x + p2.x - p3.x];
  const [dy1, dy2, dy3] = [p1.y - p2.y, p3.y - p2.y, p0.y - p1.y + p2.y - p3.y];
  const det = dx1 * dy2 - dx2 * dy1 || 1e-9;
  const g = (dx3 * dy2 - dx2 * dy3) / det;
  const h = (dx1 * dy3 - dx3 * dy1) / det;
  const [w, t] = [Math.max(1, width - 1), Math.max(1, height - 1)];
  return [
    (p1.x - p0.x + g * p1.x) / w,
    (p3.x - p0.x + h * p3.x) / t,
    p0.x,
    (p1.y - p0.y + g * p1.y) / w,
    (p3.y - p0.y + h * p3.y) / t,
    p0.y,
    g / w,
    h / t,
  ];
}

/** Fields across that the light on a page is measured in. */
const FIELDS = 24;
/** So much of a field's dots are darker than its document: print covers less of it. */
const PAPER_SHARE = 0.8;
/** Ink darker than this share of the paper's light becomes black, lighter than that white. */
const BLACK = 0.42;
const WHITE = 0.9;

/** A page with even light: shadows gone, document white, ink dark, in grey. What a photograph needs to be read like a scan. */
export function evenLight(page: Colour): Colour {
  const { width, height } = page;
  const grey = new Uint8Array(width * height);
  for (let i = 0; i < grey.length; i++)
    grey[i] = (page.data[i * 4] ?? 0) * 0.299 + (page.data[i * 4 + 1] ?? 0) * 0.587 + (page.data[i * 4 + 2] ?? 0) * 0.114;
  const fields = new Float64Array(FIELDS * FIELDS);
  for (let fy = 0; fy < FIELDS; fy++)
    for (let fx = 0; fx < FIELDS; fx++) {
      const counts = new Uint32Array(256);
      let all = 0;
      for (let y = Math.floor((fy * height) / FIELDS); y < ((fy + 1) * height) / FIELDS; y += 2)
        for (let x = Math.floor((fx * width) / FIELDS); x < ((fx + 1) * width) / FIELDS; x += 2) {
          const dot = grey[y * width + x] ?? 0;
          counts[dot] = (counts[dot] ?? 0) + 1;
          all++;
        }
      let left = all * PAPER_SHARE;
      let tone = 0;
      while (tone < 255 && left > 0) left -= counts[tone++] ?? 0;
      fields[fy * FIELDS + fx] = Math.max(40, tone);
    }
  const data = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const share = (grey[i] ?? 0) / lightAt(fields, (x / width) * FIELDS - 0.5, (y / height) * FIELDS - 0.5);
      const tone = Math.max(0, Math.min(1, (share - BLACK) / (WHITE - BLACK))) * 255;
      data[i * 4] = data[i * 4 + 1] = data[i * 4 + 2] = tone;
      data[i * 4 + 3] = 255;
    }
  return { width, height, data };
}

function lightAt(fields: Float64Array, x: number, y: number): number {
  const clamp = (n: number): number => Math.max(0, Math.min(FIELDS - 1, n));
  const [x0, y0] = [Math.floor(clamp(x)), Math.floor(clamp(y))];
  const [x1, y1] = [clamp(x0 + 1), clamp(y0 + 1)];
  const [fx, fy] = [clamp(x) - x0, clamp(y) - y0];
  const upper = (fields[y0 * FIELDS + x0] ?? 0) * (1 - fx) + (fields[y0 * FIELDS + x1] ?? 0) * fx;
  const lower = (fields[y1 * FIELDS + x0] ?? 0) * (1 - fx) + (fields[y1 * FIELDS + x1] ?? 0) * fx;
  return upper * (1 - fy) + lower * fy;
}

/** A page turned clockwise by a quarter. */
export function turnRight(page: Colour): Colour {
  const { width, height } = page;
  const data = new Uint8ClampedArray(page.data.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = (y * width + x) * 4;
      const to = (x * height + (height - 1 - y)) * 4;
      for (let c = 0; c < 4; c++) data[to + c] = page.data[from + c] ?? 0;
    }
  return { width: height, height: width, data };
}
