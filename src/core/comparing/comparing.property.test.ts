import fc from "fast-check";
import { compareInvoice } from "./compare-invoice.ts";
import { compareStatement } from "./compare-statement.ts";
import { matchLines } from "./match-lines.ts";
import { startingTolerance } from "./tolerance.ts";

const words = fc.constantFrom("Deck paint", "Deck paint, grey", "Shackle, bow", "Toner", "Rope 48 mm", "Impeller kit", "Toner, black");
const lines = fc.array(fc.record({ text: words, quantity: fc.integer({ min: 1, max: 40 }), price: fc.integer({ min: 1, max: 90_000 }) }), {
  maxLength: 12,
});
const asRecord = (l: { text: string; quantity: number; price: number }) => ({
  text: l.text,
  quantity: String(l.quantity),
  price: (l.price / 100).toFixed(2),
  amount: ((l.quantity * l.price) / 100).toFixed(2),
});

test("each line is paired once at most, and the same lines give the same pairs", () => {
  fc.assert(
    fc.property(lines, lines, (a, b) => {
      const pairs = matchLines(a, b);
      expect(new Set(pairs.values()).size).toBe(pairs.size);
      expect([...matchLines(a, b)]).toEqual([...pairs]);
    }),
  );
});

test("an invoice that says just what was ordered, in any order of lines, fits, with every line paired", () => {
  fc.assert(
    fc.property(
      lines.filter((l) => l.length > 0).chain((l) => fc.tuple(fc.constant(l), fc.shuffledSubarray(l, { minLength: l.length }))),
      ([order, shuffled]) => {
        const net = (order.reduce((s, l) => s + l.quantity * l.price, 0) / 100).toFixed(2);
        const found = compareInvoice({
          paper: {
            number: "1",
            date: null,
            currency: null,
            net,
            total: null,
            isCredit: false,
            lines: shuffled.map((l) => ({ ...asRecord(l), unit: null, page: null, box: null })),
          },
          order: { key: "PO", currency: null, net, total: null, lines: order.map(asRecord) },
          receipts: null,
          earlier: [],
          tolerance: startingTolerance,
        });
        expect(found.lines.filter((l) => l.state === "missing" || l.state === "unordered")).toEqual([]);
        expect(found.sums.difference).toBe("0.00");
      },
    ),
  );
});

test("every stated invoice has one state, and the counts are those of the lines", () => {
  const known = fc.record({
    number: fc.option(fc.constantFrom("BH-301", "BH 301", "bh301", "77/12", "R-9"), { nil: null }),
    date: fc.constant(null),
    total: fc.option(fc.constantFrom("10.00", "12.50"), { nil: null }),
    currency: fc.constant(null),
    as: fc.constantFrom("record" as const, "document" as const, "arrival" as const),
    isPaid: fc.boolean(),
    hasPaper: fc.boolean(),
    at: fc.string({ minLength: 1, maxLength: 4 }),
    label: fc.constant("x"),
  });
  const stated = fc.record({
    number: fc.constantFrom("BH-301", "BH301", "77-12", "X1"),
    date: fc.constant(null),
    amount: fc.constantFrom("10.00", "-12.50"),
    page: fc.constant(null),
    box: fc.constant(null),
    text: fc.constant(""),
  });
  fc.assert(
    fc.property(fc.array(stated, { maxLength: 8 }), fc.array(known, { maxLength: 8 }), (s, k) => {
      const found = compareStatement({ stated: s, total: null, asOf: null, known: k });
      expect(found.lines).toHaveLength(s.length);
      expect(Object.values(found.counts).reduce((a, b) => a + b, 0)).toBe(s.length);
      for (const line of found.lines) expect(line.known === null).toBe(line.state === "missing");
    }),
  );
});
