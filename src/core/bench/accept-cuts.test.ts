import { acceptCuts, pileOfCode } from "./accept-cuts.ts";
import { type BenchTable, dropPages, layOut } from "./bench-table.ts";

const shape = (table: BenchTable): string => table.piles.map((p) => p.pages.map((q) => q.page).join(" ")).join(" | ");
const sheet = (page: number) => ({ source: 0, page, leftOut: true });

describe("Accepting what is proposed", () => {
  // Cover, its blank back, a document, its blank back; twice.
  const stack = dropPages(layOut([8]), new Set(["0:2", "0:4", "0:6", "0:8"]));
  const codes = [sheet(1), sheet(5)];
  test("cuts are made and the sheets left out; each code speaks of the pile behind its sheet", () => {
    const table = acceptCuts(stack, [{ source: 0, afterPage: 4 }], codes);
    expect(shape(table)).toBe("3 | 7");
    expect(codes.map((c) => pileOfCode(table, c, codes))).toEqual(table.piles.map((p) => p.id));
  });
  test("a sheet with nothing behind it before the next one speaks of nothing", () => {
    const table = acceptCuts(layOut([3]), [], [sheet(1), sheet(2)]);
    expect(pileOfCode(table, sheet(1), [sheet(1), sheet(2)])).toBeNull();
    expect(pileOfCode(table, sheet(2), [sheet(1), sheet(2)])).toBe(1);
  });
  test("a label speaks of the pile with its own page", () => {
    const label = { source: 0, page: 2, leftOut: false };
    const table = acceptCuts(layOut([3]), [{ source: 0, afterPage: 1 }], [label]);
    expect(shape(table)).toBe("1 | 2 3");
    expect(pileOfCode(table, label, [label])).toBe(table.piles[1]?.id);
  });
});
