import type { PaperLine } from "../reading/read-rows.ts";
import type { RecordLine } from "../records/record-line.ts";
import { compareInvoice, type InvoiceAsked, isSameInvoice } from "./compare-invoice.ts";
import { startingTolerance } from "./tolerance.ts";
import { sentenceOf } from "./words.ts";

const line = (text: string, quantity: string | null, price: string | null, amount: string | null = null): PaperLine => ({
  text,
  quantity,
  unit: null,
  price,
  amount: amount ?? (quantity !== null && price !== null ? (Number(quantity) * Number(price)).toFixed(2) : null),
  page: 1,
  box: [50, 200, 400, 10],
});
const ordered = (text: string, quantity: string, price: string): RecordLine => ({
  text,
  quantity,
  price,
  amount: (Number(quantity) * Number(price)).toFixed(2),
});
const order = [ordered("Deck paint, oxide red, 20 l", "4", "142.00"), ordered("Shackle, bow, 9.5 t", "10", "54.80")];
const asked = (over: {
  lines?: readonly PaperLine[];
  net?: string | null;
  paper?: Partial<InvoiceAsked["paper"]>;
  order?: Partial<InvoiceAsked["order"]>;
  receipts?: InvoiceAsked["receipts"];
  earlier?: InvoiceAsked["earlier"];
}): InvoiceAsked => ({
  paper: {
    number: "77-3108",
    date: "2026-11-18",
    currency: "GBP",
    net: over.net === undefined ? "1116.00" : over.net,
    total: null,
    lines: over.lines ?? [line("Deck paint, oxide red, 20 l", "4", "142.00"), line("Shackle, bow, 9.5 t", "10", "54.80")],
    isCredit: false,
    ...over.paper,
  },
  order: { key: "PO-6127", currency: "GBP", net: "1116.00", total: null, lines: order, ...over.order },
  receipts: over.receipts === undefined ? [{ key: "GR-1", date: "2026-11-10", lines: order }] : over.receipts,
  earlier: over.earlier ?? [],
  tolerance: startingTolerance,
});
const codes = (a: InvoiceAsked): readonly string[] => compareInvoice(a).findings.map((f) => f.code);
const said = (a: InvoiceAsked): string => sentenceOf(compareInvoice(a), "PO-6127", "GBP").text;

test("an invoice as it was ordered fits", () => {
  const found = compareInvoice(asked({}));
  expect(found.verdict).toBe("fits");
  expect(found.lines.map((l) => [l.state, l.received, l.difference])).toEqual([
    ["same", "4", "0.00"],
    ["same", "10", "0.00"],
  ]);
  expect(said(asked({}))).toBe("Matches PO-6127, all 2 lines");
});

const cases: readonly (readonly [what: string, over: Parameters<typeof asked>[0], codes: readonly string[], sentence: string])[] = [
  [
    "a dearer line, and the sum with it",
    { lines: [line("Deck paint oxide red", "4", "159.00"), line("Shackle bow 9.5t", "10", "54.80")], net: "1184.00" },
    ["price-over", "total-over"],
    "GBP 68.00 more than ordered. Deck paint oxide red: 159.00 each, 142.00 was ordered",
  ],
  [
    "a cheaper line",
    { lines: [line("Deck paint, oxide red", "4", "100.00"), line("Shackle", "10", "54.80")], net: "948.00" },
    ["price-under", "total-under"],
    "Deck paint, oxide red: 100.00 each, 142.00 was ordered, and one more difference",
  ],
  [
    "more than was ordered",
    { lines: [line("Deck paint", "5", "142.00"), line("Shackle", "10", "54.80")], net: "1258.00" },
    ["quantity-over-order", "total-over"],
    "GBP 142.00 more than ordered. Deck paint: 5 invoiced, 4 ordered",
  ],
  [
    "more than was received",
    {
      receipts: [
        {
          key: "GR-1",
          date: null,
          lines: [ordered("Deck paint, oxide red, 20 l", "2", "142.00"), ordered("Shackle, bow, 9.5 t", "10", "54.80")],
        },
      ],
    },
    ["quantity-over-received"],
    "Deck paint, oxide red, 20 l: 4 invoiced, 2 received",
  ],
  ["nothing received", { receipts: [] }, ["nothing-received"], "Nothing of PO-6127 was received yet"],
  [
    "a line that nobody ordered",
    { lines: [line("Deck paint", "4", "142.00"), line("Shackle", "10", "54.80"), line("Environmental levy", "1", "3.00")], net: "1119.00" },
    ["not-ordered", "within-tolerance"],
    "Not on the order: Environmental levy",
  ],
  ["another currency", { paper: { currency: "EUR" } }, ["other-currency"], "In EUR; the order is in GBP"],
  ["a penny or two", { net: "1116.02" }, ["within-tolerance"], "Matches PO-6127: GBP 0.02 difference, within tolerance"],
  ["part of the order", { lines: [line("Shackle, bow", "6", "54.80")], net: "328.80" }, [], "Matches PO-6127, 1 of 2 lines"],
  ["no lines, no sums", { lines: [], net: null, order: { lines: [], net: null } }, [], "Nothing to compare on PO-6127"],
  ["a confirmation comes before its goods", { receipts: null }, [], "Matches PO-6127, all 2 lines"],
];
test.each(cases)("%s", (_what, over, expected, sentence) => {
  expect(codes(asked(over))).toEqual(expected);
  expect(said(asked(over))).toBe(sentence);
});

describe("earlier invoices of the order", () => {
  const half = {
    key: "SI-1",
    number: "77-3001",
    date: "2026-11-01",
    net: "548.00",
    total: null,
    lines: [ordered("Shackle, bow, 9.5 t", "10", "54.80")],
  };
  test("count with this one: a line invoiced twice is over the order", () => {
    const a = asked({ earlier: [half] });
    expect(codes(a)).toEqual(["quantity-over-order", "invoiced-over-order"]);
    expect(compareInvoice(a).lines.map((l) => l.invoicedBefore)).toEqual(["0", "10"]);
    expect(compareInvoice(a).sums).toMatchObject({ invoicedBefore: "548.00", difference: "0.00" });
  });
  test("the rest of the order fits", () => {
    expect(codes(asked({ earlier: [half], lines: [line("Deck paint", "4", "142.00")], net: "568.00" }))).toEqual([]);
  });
  test("the same invoice is found by its number in any spelling, or by day, total and nearly its number, and is no earlier part", () => {
    const same = { ...half, number: "773108", lines: order, net: "1116.00" };
    expect(codes(asked({ earlier: [same] }))).toEqual(["same-invoice"]);
    const paper = { number: "77-3108", date: "2026-11-18", total: "1339.20" };
    expect(isSameInvoice(paper, { number: "77-3180", date: "2026-11-18", total: "1339.20" })).toBe(true);
    expect(isSameInvoice(paper, { number: "77-3180", date: "2026-11-17", total: "1339.20" })).toBe(false);
    expect(isSameInvoice(paper, { number: "77-9999", date: "2026-11-18", total: "1339.20" })).toBe(false);
    expect(isSameInvoice({ ...paper, number: null }, { number: "77-3180", date: "2026-11-18", total: "1339.2" })).toBe(true);
  });
  test("a credit gives back: its quantities are not held against the order", () => {
    expect(codes(asked({ earlier: [half], paper: { isCredit: true } }))).toEqual([]);
  });
});

test("a price below a penny keeps its places in words; prices printed to two places are the same", () => {
  const fuel = { lines: [ordered("Marine gas oil", "6400", "0.712")], net: "4556.80" };
  expect(
    codes(asked({ order: fuel, lines: [line("Marine gas oil DMA", "6400", "0.71", "4556.80")], net: "4556.80", receipts: null })),
  ).toEqual([]);
  expect(said(asked({ order: fuel, lines: [line("Marine gas oil DMA", "6400", "0.755")], net: "4556.80", receipts: null }))).toBe(
    "Marine gas oil DMA: 0.755 each, 0.712 was ordered",
  );
});
