import fc from "fast-check";
import { parseTypedDay, shiftDay } from "./parse-day.ts";

const today = "2026-11-20";

describe("A day as people type it", () => {
  const cases: readonly (readonly [string, string | null])[] = [
    ["18 Nov 2026", "2026-11-18"],
    ["18 november 2026", "2026-11-18"],
    ["Nov 18, 2026", "2026-11-18"],
    ["18th Nov", "2026-11-18"],
    ["18.11.26", "2026-11-18"],
    ["18/11/2026", "2026-11-18"],
    ["18-11", "2026-11-18"],
    ["3 1", "2027-01-03"],
    ["181126", "2026-11-18"],
    ["18112026", "2026-11-18"],
    ["2026-11-18", "2026-11-18"],
    [" today ", today],
    ["yesterday", "2026-11-19"],
    ["29.2.", null],
    ["29.2.24", "2024-02-29"],
    ["31.11.26", null],
    ["11/18/2026", null],
    ["soon", null],
    ["", null],
    ["1", null],
    ["1.2.3.4", null],
    ["18.11.126", null],
  ];
  test.each(cases)("%s → %s", (typed, day) => expect(parseTypedDay(typed, today)).toBe(day));
  test("whatever is typed, the answer is a day or none", () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 24 }), (typed) => {
        expect(parseTypedDay(typed, today) ?? "2000-01-01").toMatch(/^\d{4}-\d{2}-\d{2}$/);
      }),
    );
  });
  test("days are shifted over the ends of months and years", () => expect(shiftDay("2026-12-31", 1)).toBe("2027-01-01"));
});
