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
  /** Degrees that the lines run down to the right (clockwise) if the page stands upright; 0 when nothing can be said. At most 6 either way. */
  readonly upright: number;
  /** The same if it lies on its side. */
  readonly onItsSide: number;
  /** Whether its lines seem to run from top to bottom. A table with columns may seem so, too; and which side it lies on is not known from this. */
  readonly sideways: boolean;
}

/** What a page is slanted by, going by how its lines seem to run. */
export const slantOf = (slant: Slant): number => (slant.sideways ? slant.onItsSide : slant.upright);

/**
 * Finds how far a page was turned when it was scanned: the slant at which dark dots fall most into rows. Works on any resolution; linear in the
 * dots of a small copy times some sixty angles.
 */
export function findSlant(grey: Grey): Slant {
  const small = shrink(grey, Math.max(1, Math.round(Math.max(grey.width, grey.height) / (WORK_WIDTH * 1.42))));
  const limit = paperTone(small) - 50;
  const found: number[] = [];
  for (let i = 0; i < small.data.length; i++) if ((small.data[i] ?? 255) < limit) found.push(i);
  if (found.length < DOTS_MIN) return { upright: 0, onItsSide: 0, sideways: false };
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
  return { upright: along.degrees, onItsSide: across.degrees, sideways: across.score > along.score * SIDEWAYS_RATIO };
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
