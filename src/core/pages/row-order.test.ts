import fc from "fast-check";
import type { Word } from "./page-text.ts";
import { inRowOrder } from "./row-order.ts";

const word = (text: string, x: number, y: number): Word => ({ text, box: [x, y, 40, 10] });
const page = [
  word("Invoice", 50, 100),
  word("No.", 300, 102),
  word("77", 360, 99),
  word("Total", 300, 140),
  word("12.00", 360, 141),
  word("Toner", 50, 120),
];

test("rows from the top, each from the left", () => {
  expect(inRowOrder([...page].reverse()).map((w) => w.text)).toEqual(["Invoice", "No.", "77", "Toner", "Total", "12.00"]);
  expect(inRowOrder([])).toEqual([]);
});

test("the order in which words were found does not matter, and none is lost", () => {
  fc.assert(
    fc.property(fc.shuffledSubarray(page, { minLength: page.length }), (found) => {
      expect(inRowOrder(found)).toEqual(inRowOrder(page));
    }),
  );
});
