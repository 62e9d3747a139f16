import fc from "fast-check";
import { parsePeriod } from "./parse-period.ts";

test.each([
  ["01.10.2026 - 31.10.2026", "2026-10-01", "2026-10-31"],
  ["01.10.–31.10.2026", "2026-10-01", "2026-10-31"],
  ["01.10. bis 31.10.2026", "2026-10-01", "2026-10-31"],
  ["vom 1. Oktober 2026 bis zum 31. Oktober 2026", "2026-10-01", "2026-10-31"],
  ["1 to 31 October 2026", "2026-10-01", "2026-10-31"],
  ["1–31 October 2026", "2026-10-01", "2026-10-31"],
  ["1 September to 31 October 2026", "2026-09-01", "2026-10-31"],
  ["from 1 October 2026 until 31 October 2026", "2026-10-01", "2026-10-31"],
  ["du 1er au 31 octobre 2026", "2026-10-01", "2026-10-31"],
  ["2026-10-01 – 2026-10-31", "2026-10-01", "2026-10-31"],
  ["13/10/2026 to 31/10/2026", "2026-10-13", "2026-10-31"],
  ["Oktober 2026", "2026-10-01", "2026-10-31"],
  ["im Februar 2028", "2028-02-01", "2028-02-29"],
  ["10/2026", "2026-10-01", "2026-10-31"],
])("%s", (text, from, to) => {
  expect(parsePeriod(text, null)).toEqual({ from, to });
});

test.each([
  "",
  "18 November 2026",
  "31.10.2026 - 01.10.2026",
  "01.10.2020 - 31.10.2026",
  "13/2026",
  "MV Pale Heron",
  "4-6 weeks",
  "77-3108",
  "1 to 5",
])("%j is none", (text) => {
  expect(parsePeriod(text, null)).toBeNull();
});

test("days that could be read either way follow the document's habit", () => {
  expect(parsePeriod("03/10/2026 to 04/10/2026", "dmy")).toEqual({ from: "2026-10-03", to: "2026-10-04" });
  expect(parsePeriod("03/10/2026 to 04/10/2026", "mdy")).toEqual({ from: "2026-03-10", to: "2026-04-10" });
});

test("whatever is written, what is read is in order", () => {
  const piece = fc.constantFrom("1", "31", "10", "2026", "October", "–", "-", "to", "bis", ".", "/", "1er", "von", "x");
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 10 }), fc.constantFrom("", " "), (pieces, between) => {
      const period = parsePeriod(pieces.join(between), null);
      if (period) expect(period.from <= period.to).toBe(true);
    }),
    { numRuns: 1000 },
  );
});
