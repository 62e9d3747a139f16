import { shapeOf } from "../reading/identifiers.ts";
import { foldReference } from "../shared/fold-text.ts";

/**
 * Keys that a written reference nearly is: two figures the wrong way round, one figure wrong, missing or too many, or letters read for figures.
 * For the few records of one account; answers the reference for each key that fits exactly one.
 */
export function nearbyReferences(written: readonly string[], keys: readonly string[]): ReadonlyMap<string, string> {
  const near = new Map<string, string>();
  const folded = keys.map((key) => ({ key, shape: shapeOf(foldReference(key)) }));
  for (const text of written) {
    const shape = shapeOf(foldReference(text));
    if (shape.replace(/\D/g, "").length < 4) continue;
    const fitting = folded.filter((k) => isNear(shape, k.shape));
    for (const k of fitting) if (!near.has(k.key)) near.set(k.key, shape);
  }
  return near;
}

/** Whether two texts are one slip of the pen apart. Linear. */
export function isNear(a: string, b: string): boolean {
  if (Math.abs(a.length - b.length) > 1) return false;
  let from = 0;
  while (from < a.length && from < b.length && a[from] === b[from]) from++;
  let fromEnd = 0;
  while (fromEnd < a.length - from && fromEnd < b.length - from && a[a.length - 1 - fromEnd] === b[b.length - 1 - fromEnd]) fromEnd++;
  const [left, right] = [a.slice(from, a.length - fromEnd), b.slice(from, b.length - fromEnd)];
  if (left.length <= 1 && right.length <= 1) return true;
  return left.length === 2 && right.length === 2 && left[0] === right[1] && left[1] === right[0];
}
