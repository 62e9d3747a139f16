import fc from "fast-check";
import { foldedPlaces } from "./folded-places.ts";
import { foldPath } from "./legal-name.ts";

const step = fc.constantFrom("Halven", "HALVEN", "halven ", "Hálven", "Straße", "STRASSE", "a", "A.", "b c", "b  c", "ﬁle", "file");
const place = fc.record({ connection: fc.constantFrom("disk", "bucket"), segments: fc.array(step, { minLength: 1, maxLength: 4 }) });

test("places are one exactly when their folded paths are, each keeps what came first", () => {
  fc.assert(
    fc.property(fc.array(place, { maxLength: 60 }), (given) => {
      const places = foldedPlaces<number>();
      const plain = new Map<string, number>();
      for (const [n, { connection, segments }] of given.entries()) {
        const folded = `${connection}/${foldPath(segments)}`;
        expect(places.get(connection, segments)).toBe(plain.get(folded));
        expect(places.keep(connection, segments, n)).toBe(plain.get(folded));
        if (!plain.has(folded)) plain.set(folded, n);
      }
      for (const { connection, segments } of given)
        expect(places.get(connection, segments)).toBe(plain.get(`${connection}/${foldPath(segments)}`));
    }),
    { numRuns: 400 },
  );
});
