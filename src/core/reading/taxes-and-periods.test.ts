import { readingsOfEInvoice, readEInvoice, type XmlElement } from "./e-invoice.ts";
import type { ReadPage } from "./page-lines.ts";
import { readPaper } from "./read-paper.ts";
import type { Reading } from "./reading.ts";
import { context, pageOf } from "./test-page.ts";

type Row = readonly [number, number, string];
const head: readonly Row[] = [
  [56, 50, "Tarrin Marine Fuels Ltd"],
  [430, 60, "INVOICE"],
  [430, 80, "No. 77-3108"],
  [430, 96, "18 November 2026"],
];
const read = (...pages: readonly ReadPage[]): readonly Reading[] => readPaper(pages, context).readings;
const taxes = (rows: readonly Row[]): readonly Reading[] => read(pageOf([...head, ...rows])).filter((r) => r.field === "taxAtRate");
const sums = (net: string, tax: string, total: string): readonly Row[] => [
  [400, 500, "Net total"],
  [500, 500, net],
  [400, 516, "VAT total"],
  [500, 516, tax],
  [400, 532, "Total"],
  [480, 532, `GBP ${total}`],
];

describe("Tax by rate", () => {
  test("off a line that names its rate", () => {
    const [one, more] = taxes([
      [400, 300, "Net"],
      [500, 300, "4,862.50"],
      [400, 316, "VAT 20 %"],
      [500, 316, "972.50"],
      [400, 332, "Total"],
      [480, 332, "GBP 5,835.00"],
    ]);
    expect(more).toBeUndefined();
    expect(one).toMatchObject({ value: "20.00 972.50", text: "972.50", page: 1, label: "VAT 20 %" });
    expect(one?.certainty).toBeGreaterThan(0.9);
  });
  test.each([
    ["VAT 20", "20.00 972.50"],
    ["VAT@20%:", "20.00 972.50"],
    ["VAT (20", "20.00 972.50"],
    // No share of the net: some other figure.
    ["VAT 19", null],
    ["VAT", null],
  ])("off a scan that lost the sign of per cent: %s", (label, value) => {
    const rows: readonly Row[] = [
      ...head,
      [400, 300, "Net"],
      [500, 300, "4,862.50"],
      [400, 316, label],
      [500, 316, "972.50"],
      [400, 332, "Total"],
      [480, 332, "GBP 5,835.00"],
    ];
    const of = (fromPicture: boolean) => read(pageOf(rows, { fromPicture })).flatMap((r) => (r.field === "taxAtRate" ? [r.value] : []));
    expect(of(true)).toEqual(value === null ? [] : [value]);
    // A digital page loses nothing: there a figure without the sign is no rate.
    if (!label.includes("%")) expect(of(false)).toEqual([]);
  });
  test("off the label of the tax, where sums stand beneath their labels", () => {
    const rows: readonly Row[] = [
      [56, 500, "Net"],
      [200, 500, "VAT (20%)"],
      [400, 500, "Total"],
      [56, 516, "4,862.50"],
      [200, 516, "972.50"],
      [400, 516, "GBP 5,835.00"],
    ];
    expect(read(pageOf([...head, ...rows])).find((r) => r.field === "tax")).toMatchObject({ value: "972.50" });
    expect(taxes(rows)).toMatchObject([{ value: "20.00 972.50", text: "972.50", page: 1 }]);
    // A tax whose label names no rate says none.
    expect(taxes(rows.map(([x, y, text]) => [x, y, text.replace(" (20%)", "")] as const))).toEqual([]);
  });
  test("off a table of rates, where each is that share of its base", () => {
    const found = taxes([
      [56, 400, "Rate"],
      [200, 400, "Goods"],
      [300, 400, "VAT"],
      [56, 416, "20%"],
      [200, 416, "1,000.00"],
      [300, 416, "200.00"],
      [56, 432, "5%"],
      [200, 432, "300.00"],
      [300, 432, "15.00"],
      ...sums("1,300.00", "215.00", "1,515.00"),
    ]);
    expect(found.map((r) => r.value)).toEqual(["20.00 200.00", "5.00 15.00"]);
    expect(found.every((r) => r.certainty > 0.9 && r.box !== null)).toBe(true);
  });
  test("in German, with the base between", () => {
    const found = taxes([
      [56, 400, "zzgl. 19% MwSt. auf 526,32 EUR"],
      [400, 400, "100,00 EUR"],
      [56, 416, "zzgl. 7% MwSt. auf 200,00 EUR"],
      [400, 416, "14,00 EUR"],
    ]);
    expect(found.map((r) => r.value)).toEqual(["19.00 100.00", "7.00 14.00"]);
  });
  test("in French, and of a credit, whose sums have a sign", () => {
    const found = taxes([
      [400, 400, "Total HT"],
      [500, 400, "-1 000,00"],
      [400, 416, "T.V.A. 20%"],
      [500, 416, "-200,00"],
      [400, 432, "Total TTC"],
      [500, 432, "-1 200,00"],
    ]);
    expect(found.map((r) => r.value)).toEqual(["20.00 -200.00"]);
    expect(found[0]?.certainty).toBeGreaterThan(0.9);
  });
  test("of goods that show their own, put together where there is no summary", () => {
    const found = taxes([
      [56, 300, "Rope"],
      [300, 300, "100.00"],
      [380, 300, "20%"],
      [440, 300, "20.00"],
      [56, 316, "Chain"],
      [300, 316, "50.00"],
      [380, 316, "20%"],
      [440, 316, "10.00"],
      [56, 332, "Charts"],
      [300, 332, "40.00"],
      [380, 332, "5%"],
      [440, 332, "2.00"],
      ...sums("190.00", "32.00", "222.00"),
    ]);
    expect(found.map((r) => r.value)).toEqual(["20.00 30.00", "5.00 2.00"]);
  });
  test("is unsure where it does not come to the tax of the whole", () => {
    const found = taxes([[56, 400, "VAT 5 % 15.00"], ...sums("1,300.00", "215.00", "1,515.00")]);
    expect(found[0]?.certainty).toBeLessThan(0.5);
  });
  test("a discount, interest or a share is none", () => {
    expect(
      taxes([
        [56, 400, "less discount 10% of 500.00 50.00"],
        [56, 416, "Interest 8 % 12.00"],
        [56, 432, "5 % of our crew 120"],
      ]),
    ).toEqual([]);
  });
});

describe("The period of a delivery", () => {
  const period = (rows: readonly Row[]): Readonly<Record<string, string>> =>
    Object.fromEntries(
      read(pageOf([...head, ...rows]))
        .filter((r) => r.field === "deliveryDate" || r.field === "deliveryUntil")
        .map((r) => [r.field, r.value]),
    );
  const october = { deliveryDate: "2026-10-01", deliveryUntil: "2026-10-31" };
  test.each<[string, readonly Row[]]>([
    ["behind its label", [[56, 200, "Period of supply: 1 October 2026 to 31 October 2026"]]],
    [
      "beside its label",
      [
        [56, 200, "Leistungszeitraum"],
        [300, 200, "01.10.2026 - 31.10.2026"],
      ],
    ],
    [
      "beneath its label",
      [
        [56, 200, "Période de facturation"],
        [56, 216, "du 1er au 31 octobre 2026"],
      ],
    ],
    ["as a month", [[56, 200, "Leistungszeitraum: Oktober 2026"]]],
  ])("stands %s", (_, rows) => {
    expect(period(rows)).toEqual(october);
  });
  test("points at where it stands", () => {
    const page = pageOf([...head, [56, 200, "Hire period: 1 to 31 October 2026"]]);
    expect(read(page).find((r) => r.field === "deliveryUntil")).toMatchObject({
      page: 1,
      text: "1 to 31 October 2026",
      label: "Hire period:",
    });
  });
  test("is left alone where the document says a day", () => {
    expect(
      period([
        [56, 200, "Delivery date: 3 October 2026"],
        [56, 216, "Billing period: 1 to 31 October 2026"],
      ]),
    ).toEqual({
      deliveryDate: "2026-10-03",
    });
  });
  test("without a label is no period of delivery", () => {
    expect(period([[56, 200, "Our office is closed 24 December 2026 to 2 January 2027"]])).toEqual({});
  });
});

test("an e-invoice says both itself", () => {
  const element = (name: string, children: readonly XmlElement[] | string, attributes = {}): XmlElement =>
    typeof children === "string" ? { name, attributes, text: children, children: [] } : { name, attributes, text: "", children };
  const subtotal = (percent: string, amount: string): XmlElement =>
    element("TaxSubtotal", [element("TaxAmount", amount), element("TaxCategory", [element("Percent", percent)])]);
  const invoice = readEInvoice(
    element("Invoice", [
      element("ID", "E-1"),
      element("InvoicePeriod", [element("StartDate", "2026-10-01"), element("EndDate", "2026-10-31")]),
      element("TaxTotal", [element("TaxAmount", "215.00"), subtotal("20", "200"), subtotal("5", "15")]),
    ]),
  );
  const values = invoice ? readingsOfEInvoice(invoice).map((r) => `${r.field} ${r.value}`) : [];
  expect(values).toEqual(
    expect.arrayContaining(["deliveryDate 2026-10-01", "deliveryUntil 2026-10-31", "taxAtRate 20.00 200.00", "taxAtRate 5.00 15.00"]),
  );
});
