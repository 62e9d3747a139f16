import { type AccessClass, type Action, allowsDocument, type Grant } from "./grants.ts";

/**
 * Compiles grants to one bit per access class: bit n is set when the class with id n is covered.
 * Bit order is PostgreSQL's get_bit on bytea: bit n is bit (n mod 8) of byte (n div 8), least significant first.
 * Classes that are not listed are not covered.
 */
export function compileClassBits(
  grants: readonly Grant[],
  action: Action,
  classes: readonly (AccessClass & { readonly id: number })[],
): Uint8Array {
  const highest = classes.reduce((most, cls) => Math.max(most, cls.id), 0);
  const bits = new Uint8Array((highest >> 3) + 1);
  for (const cls of classes) {
    if (allowsDocument(grants, action, cls)) bits[cls.id >> 3] = (bits[cls.id >> 3] ?? 0) | (1 << (cls.id & 7));
  }
  return bits;
}
