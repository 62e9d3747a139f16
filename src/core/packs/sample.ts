/**
 * Draws a sample of n out of a list, the same for the same seed and list, so that an auditor can draw it again. Every one is equally likely. Answers the
 * drawn ones in the order of the list. Rule: docs/rules.md#sample
 */
export function drawSample<T>(list: readonly T[], n: number, seed: number): readonly T[] {
  const next = generator(seed);
  // Selection sampling (Knuth, algorithm S): one walk, and the order stays.
  const drawn: T[] = [];
  for (let i = 0; i < list.length && drawn.length < n; i++) {
    const item = list[i];
    if (item !== undefined && next() * (list.length - i) < n - drawn.length) drawn.push(item);
  }
  return drawn;
}

/** Numbers from 0 to 1 that follow from a seed (splitmix32): the same on every machine. */
function generator(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x9e3779b9) >>> 0;
    let z = state;
    z = Math.imul(z ^ (z >>> 16), 0x21f0aaad);
    z = Math.imul(z ^ (z >>> 15), 0x735a2d97);
    return ((z ^ (z >>> 15)) >>> 0) / 4294967296;
  };
}
