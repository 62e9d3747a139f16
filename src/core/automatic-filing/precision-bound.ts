/** How sure a bound has to be: it is above the truth in one case of twenty at most. */
export const CONFIDENCE = 0.95;
/** Halvings of the interval: twelve figures. */
const HALVINGS = 50;

/**
 * The lowest share of right ones that still makes it likelier than 1 in 20 to see so many right ones: an exact one-sided bound (Clopper and Pearson).
 * Nought for none. `right` of `all`, both whole.
 */
export function precisionBound(right: number, all: number): number {
  if (all <= 0 || right <= 0) return 0;
  let low = 0;
  let high = 1;
  for (let i = 0; i < HALVINGS; i++) {
    const middle = (low + high) / 2;
    if (atLeast(Math.min(right, all), all, middle) < 1 - CONFIDENCE) low = middle;
    else high = middle;
  }
  return low;
}

/** Probability of at least `right` of `all` when each is right with probability `p`. */
function atLeast(right: number, all: number, p: number): number {
  if (p <= 0) return right === 0 ? 1 : 0;
  if (p >= 1) return 1;
  // From the top down: with few errors that is few terms.
  let sum = 0;
  let log = all * Math.log(p);
  for (let k = all; k >= right; k--) {
    sum += Math.exp(log);
    // P(k-1) / P(k)
    log += Math.log(k) - Math.log(all - k + 1) + Math.log(1 - p) - Math.log(p);
  }
  return Math.min(1, sum);
}

/** How many have to be right without a single error until the bound reaches a precision. */
export function neededFor(precision: number): number {
  return precision >= 1 ? Number.POSITIVE_INFINITY : Math.ceil(Math.log(1 - CONFIDENCE) / Math.log(precision));
}
