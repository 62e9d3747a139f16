import fc from "fast-check";
import { IdSet } from "./id-set.ts";

test("A set of ids holds what was put in and nothing else, also far beyond its first size, and says what another lacks", () => {
  const ids = fc.array(fc.integer({ min: 0, max: 300_000 }), { maxLength: 60 });
  fc.assert(
    fc.property(ids, ids, ids, (first, second, asked) => {
      const [a, b] = [new IdSet(), new IdSet()];
      for (const id of first) a.add(id);
      for (const id of second) b.add(id);
      for (const id of asked) expect(a.has(id)).toBe(first.includes(id));
      expect(a.without(b)).toEqual([...new Set(first)].filter((id) => !second.includes(id)).sort((x, y) => x - y));
    }),
    { numRuns: 60 },
  );
});
