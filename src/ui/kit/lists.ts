/** A list with one of its entries moved by some places. */
export function moved<T>(list: readonly T[], at: number, by: number): readonly T[] {
  const next = [...list];
  const [entry] = next.splice(at, 1);
  if (entry !== undefined) next.splice(at + by, 0, entry);
  return next;
}

/** A key that nothing in a list has yet: its name and a number. */
export function freeKey(name: string, taken: readonly string[]): string {
  for (let n = taken.length + 1; ; n++) if (!taken.includes(`${name}${n}`)) return `${name}${n}`;
}
