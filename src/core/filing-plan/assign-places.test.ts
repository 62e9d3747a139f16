import fc from "fast-check";
import { assignPlaces, type PlaceWish } from "./assign-places.ts";

const place = (name: string) => ({ path: name, folded: name.toLowerCase() });
const wish = (id: number, current: string | null, ...names: readonly [string, ...string[]]): PlaceWish => ({
  id,
  current: current === null ? null : current.toLowerCase(),
  wanted: names.map(place),
});
const assign = (wishes: readonly PlaceWish[], isHeld: (folded: string) => boolean) =>
  assignPlaces(wishes, isHeld, (id, n) => place(`${wishes.find((w) => w.id === id)?.wanted.at(-1)?.path} (${n})`));
const given = (wishes: readonly PlaceWish[], held: readonly string[] = []) =>
  [...assign(wishes, (p) => held.includes(p))].sort(([a], [b]) => a - b).map(([, p]) => p.path);

describe("Places", () => {
  test.each([
    ["a free name is given as it is", [wish(1, null, "Orrin")], [], ["Orrin"]],
    [
      "namesakes are told apart by their field",
      [wish(1, null, "Halven"), wish(2, null, "halven", "halven C-2")],
      [],
      ["Halven", "halven C-2"],
    ],
    ["else by a number", [wish(1, null, "Halven"), wish(2, null, "halven")], [], ["Halven", "halven (2)"]],
    ["who stands there stays, though another comes first", [wish(1, "x", "P", "P 1"), wish(2, "P", "P")], [], ["P 1", "P"]],
    ["a name that came free is taken", [wish(2, "P (2)", "P")], [], ["P"]],
    ["a number that is still needed is kept", [wish(1, "P", "P"), wish(3, "P (3)", "P")], [], ["P", "P (3)"]],
    ["a swap is two moves", [wish(1, "a", "b"), wish(2, "b", "a")], [], ["b", "a"]],
    ["what others hold is left to them", [wish(1, null, "P", "P 1")], ["p", "p 1"], ["P 1 (2)"]],
    ["its own place is never held against it", [wish(1, "P 1", "P", "P 1")], ["p", "p 1"], ["P 1"]],
  ])("%s", (_, wishes, held, places) => expect(given(wishes, held)).toEqual(places));

  test("are one to one, whatever is wished and held, and asking again from there moves nothing", () => {
    const name = fc.constantFrom("a", "A", "b", "c", "a (2)", "b (2)");
    fc.assert(
      fc.property(fc.array(fc.tuple(name, fc.boolean()), { maxLength: 12 }), fc.array(name, { maxLength: 4 }), (asked, held) => {
        const others = held.map((h) => h.toLowerCase());
        const wishes = asked.map(([n, apart], i) => wish(i, null, n, ...(apart ? [`${n} k${i}`] : [])));
        const first = assign(wishes, (p) => others.includes(p));
        expect(first.size).toBe(wishes.length);
        const folded = [...first.values()].map((p) => p.folded);
        expect(new Set(folded).size).toBe(folded.length);
        expect(folded.filter((p) => others.includes(p))).toEqual([]);
        const again = assign(
          wishes.map((w) => ({ ...w, current: first.get(w.id)?.folded ?? null })),
          (p) => others.includes(p),
        );
        expect([...again].map(([id, p]) => [id, p.folded]).sort()).toEqual([...first].map(([id, p]) => [id, p.folded]).sort());
      }),
      { numRuns: 600 },
    );
  });
});
