import { type Grey, paperTone, shrink } from "./grey.ts";

/** Steepest slant that is looked for, degrees: a sheet feeder does not do more. */
const STEEPEST = 6;
const COARSE = 0.5;
const FINE = 0.1;
/** Dots across that the search works on; strokes of text are still told from gaps between lines. */
const WORK_WIDTH = 420;
/** Dark dots that are taken; more say nothing new. */
const DOTS_MAX = 6_000;
/** Below so many dark dots a page has nothing to go by. */
const DOTS_MIN = 150;
/** Lines across must stand out so much better than lines along before a page counts as sideways. */
const SIDEWAYS_RATIO = 1.6;

/** How a page's lines run. */
export interface Slant {
  /** Degrees that the lines run down to the right (clockwise); 0 when nothing can be said. At most 6 either way. */
  readonly degrees: number;
  /** Whether the lines run from top to bottom: the page lies on its side. Which side is not known from this. */
  readonly sideways: boolean;
}

/**
 * Finds how far a page was turned when it was scanned: the slant at which dark dots fall most into rows. Works on any resolution; linear in the
 * dots of a small copy times some sixty angles.
 */
export function findSlant(grey: Grey): Slant {
  const small = shrink(grey, Math.max(1, Math.round(Math.max(grey.width, grey.height) / (WORK_WIDTH * 1.42))));
  const limit = paperTone(small) - 50;
  const found: number[] = [];
  for (let i = 0; i < small.data.length; i++) if ((small.data[i] ?? 255) < limit) found.push(i);
  if (found.length < DOTS_MIN) return { degrees: 0, sideways: false };
  const every = Math.max(1, Math.ceil(found.length / DOTS_MAX));
  const upright: Dots = { x: [], y: [], height: small.height, width: small.width };
  const onItsSide: Dots = { x: [], y: [], height: small.width, width: small.height };
  for (let i = 0; i < found.length; i += every) {
    const at = found[i] ?? 0;
    const [x, y] = [at % small.width, Math.floor(at / small.width)];
    upright.x.push(x);
    upright.y.push(y);
    onItsSide.x.push(small.height - 1 - y);
    onItsSide.y.push(x);
  }
  const along = bestSlant(upright);
  const across = bestSlant(onItsSide);
  return across.score > along.score * SIDEWAYS_RATIO
    ? { degrees: across.degrees, sideways: true }
    : { degrees: along.degrees, sideways: false };
}

interface Dots {
  readonly x: number[];
  readonly y: number[];
  readonly width: number;
  readonly height: number;
}

function bestSlant(dots: Dots): { readonly degrees: number; readonly score: number } {
  let best = { degrees: 0, score: score(dots, 0) };
  const consider = (degrees: number): void => {
    const now = score(dots, degrees);
    if (now > best.score) best = { degrees, score: now };
  };
  for (let degrees = -STEEPEST; degrees <= STEEPEST; degrees += COARSE) consider(degrees);
  const around = best.degrees;
  for (let step = -4; step <= 4; step++) consider(around + step * FINE);
  return { degrees: Math.round(best.degrees * 10) / 10, score: best.score };
}

/** How sharply rows of text stand out when lines run at this slant: the squared steps from row to row. */
function score(dots: Dots, degrees: number): number {
  const slope = Math.tan((degrees * Math.PI) / 180);
  const offset = Math.ceil(Math.abs(slope) * dots.width) + 1;
  const rows = new Float64Array(dots.height + offset * 2);
  for (let i = 0; i < dots.x.length; i++) {
    const row = Math.round((dots.y[i] ?? 0) - (dots.x[i] ?? 0) * slope) + offset;
    rows[row] = (rows[row] ?? 0) + 1;
  }
  let sum = 0;
  for (let i = 1; i < rows.length; i++) sum += ((rows[i] ?? 0) - (rows[i - 1] ?? 0)) ** 2;
  return sum;
}
