import fc from "fast-check";
import {
  begin,
  bringBack,
  type BenchTable,
  cutAfter,
  cutAtPages,
  dropPages,
  type History,
  joinToBefore,
  layOut,
  movePages,
  pageKey,
  redo,
  step,
  turnPages,
  undo,
  wrongWithParts,
} from "./bench-table.ts";

const allPages = (table: BenchTable): string[] => [...table.piles.flatMap((p) => p.pages), ...table.dropped].map(pageKey).sort();

/** Something a person does on the bench, told by numbers that are brought into range on the table they meet. */
const act = fc.record({
  what: fc.constantFrom("cut", "cutAt", "join", "move", "moveOut", "turn", "drop", "back", "undo", "redo"),
  pile: fc.nat(20),
  at: fc.nat(20),
  picks: fc.array(fc.nat(60), { minLength: 1, maxLength: 6 }),
});
type Act = typeof act extends fc.Arbitrary<infer T> ? T : never;

function doIt(history: History<BenchTable>, { what, pile, at, picks }: Act): History<BenchTable> {
  const table = history.now;
  const pages = [...table.piles.flatMap((p) => p.pages), ...table.dropped];
  const keys = new Set(picks.map((n) => pageKey(pages[n % Math.max(1, pages.length)] ?? { source: 0, page: 0 })));
  const chosen = table.piles[pile % Math.max(1, table.piles.length)];
  const id = chosen?.id ?? 0;
  if (what === "undo") return undo(history);
  if (what === "redo") return redo(history);
  const next = {
    cut: () => cutAfter(table, id, [at]),
    cutAt: () =>
      cutAtPages(
        table,
        pages.slice(0, at).map((p) => ({ source: p.source, afterPage: p.page })),
      ),
    join: () => joinToBefore(table, id),
    move: () => movePages(table, keys, id, at % ((chosen?.pages.length ?? 0) + 1)),
    moveOut: () => movePages(table, keys, null, at % (table.piles.length + 1)),
    turn: () => turnPages(table, keys, 90),
    drop: () => dropPages(table, keys),
    back: () => bringBack(table, keys),
  }[what]();
  return step(history, next);
}

describe("The bench", () => {
  const counts = fc.array(fc.integer({ min: 1, max: 12 }), { minLength: 1, maxLength: 4 });
  test("whatever is done, every page is in exactly one place, no pile is empty and no two share an id (promise 2)", () => {
    fc.assert(
      fc.property(counts, fc.array(act, { maxLength: 40 }), (pageCounts, acts) => {
        const start = layOut(pageCounts);
        let history = begin(start);
        for (const a of acts) {
          history = doIt(history, a);
          const table = history.now;
          expect(allPages(table)).toEqual(allPages(start));
          expect(table.piles.every((p) => p.pages.length > 0)).toBe(true);
          expect(new Set(table.piles.map((p) => p.id)).size).toBe(table.piles.length);
          expect(wrongWithParts(pageCounts, table.piles, table.dropped)).toBeNull();
        }
      }),
    );
  });
  test("all of it undone is the beginning, all of it done again is the end", () => {
    fc.assert(
      fc.property(counts, fc.array(act, { maxLength: 25 }), (pageCounts, acts) => {
        const start = begin(layOut(pageCounts));
        const end = acts.reduce(doIt, start);
        let back = end;
        while (back.past.length > 0) back = undo(back);
        expect(back.now).toEqual(start.now);
        let again = back;
        while (again.future.length > 0) again = redo(again);
        let last = end;
        while (last.future.length > 0) last = redo(last);
        expect(again.now).toEqual(last.now);
      }),
    );
  });
});

describe("What one does on it", () => {
  const shape = (table: BenchTable): string => table.piles.map((p) => p.pages.map((q) => q.page).join(" ")).join(" | ");
  const five = layOut([5]);
  test("a cut makes two piles, many cuts many", () => {
    expect(shape(cutAfter(five, 1, [2]))).toBe("1 2 | 3 4 5");
    expect(shape(cutAfter(five, 1, [4, 1, 9, 0, 1]))).toBe("1 | 2 3 4 | 5");
    expect(cutAfter(five, 99, [2])).toBe(five);
  });
  test("proposed cuts hold only where the two pages still follow each other", () => {
    const moved = movePages(five, new Set(["0:3"]), 1, 0);
    expect(
      shape(
        cutAtPages(moved, [
          { source: 0, afterPage: 2 },
          { source: 0, afterPage: 4 },
        ]),
      ),
    ).toBe("3 1 2 | 4 | 5");
  });
  test("a proposed cut holds across pages that were left out meanwhile", () => {
    const dropped = dropPages(five, new Set(["0:2", "0:3"]));
    expect(shape(cutAtPages(dropped, [{ source: 0, afterPage: 2 }]))).toBe("1 | 4 5");
    expect(shape(cutAtPages(dropped, [{ source: 1, afterPage: 2 }]))).toBe("1 4 5");
  });
  test("a pile is joined to the one before it; the first cannot be", () => {
    const cut = cutAfter(five, 1, [2]);
    expect(shape(joinToBefore(cut, 2))).toBe("1 2 3 4 5");
    expect(joinToBefore(cut, 1)).toBe(cut);
  });
  test("pages keep their order when they are moved, and stand where they were put", () => {
    const cut = cutAfter(five, 1, [3]);
    expect(shape(movePages(cut, new Set(["0:4", "0:1"]), 1, 2))).toBe("2 1 4 3 | 5");
    expect(shape(movePages(cut, new Set(["0:4", "0:5"]), 1, 0))).toBe("4 5 1 2 3");
    expect(shape(movePages(cut, new Set(["0:2"]), null, 0))).toBe("2 | 1 3 | 4 5");
  });
  test("dropped pages come back to where they were", () => {
    const dropped = dropPages(five, new Set(["0:1", "0:3"]));
    expect(shape(dropped)).toBe("2 4 5");
    expect(shape(bringBack(dropped, new Set(["0:3", "0:1"])))).toBe("1 2 3 4 5");
    const all = dropPages(five, new Set(["0:1", "0:2", "0:3", "0:4", "0:5"]));
    expect(shape(bringBack(all, new Set(["0:2"])))).toBe("2");
  });
  test.each([
    ["a page twice", [[1, 1]], "page 1 is named twice"],
    ["a page that is not there", [[1, 3]], "page 3 is not there"],
    ["a page nowhere", [[1]], "1 pages are named nowhere"],
    ["an empty part", [[1, 2], []], "a part has no pages"],
    ["all of them", [[2], [1]], null],
  ] as const)("parts with %s are told from good ones", (_what, parts, wrong) =>
    expect(
      wrongWithParts(
        [2],
        parts.map((pages) => ({ pages: pages.map((page) => ({ source: 0, page })) })),
        [],
      ),
    ).toBe(wrong),
  );
});
