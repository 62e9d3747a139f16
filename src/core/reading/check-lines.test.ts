import { checkLines } from "./check-lines.ts";
import { readEInvoice, rowsOfEInvoice, type XmlElement } from "./e-invoice.ts";
import { readPaper } from "./read-paper.ts";
import { readRows } from "./read-rows.ts";
import { context, pageOf } from "./test-page.ts";

const paper = (net: string, more: readonly (readonly [number, number, string])[] = [], number = 1) =>
  pageOf(
    [
      [56, 200, "Description"],
      [340, 200, "Qty"],
      [420, 200, "Price"],
      [500, 200, "Amount"],
      [56, 220, "Toner"],
      [340, 220, "10"],
      [420, 220, "74.20"],
      [500, 220, "742.00"],
      [56, 240, "Rope"],
      [340, 240, "2"],
      [420, 240, "645.00"],
      [494, 240, "1,290.00"],
      ...more,
      [400, 280, "Net"],
      [494, 280, net],
    ],
    { number },
  );
const checked = (page: ReturnType<typeof paper>) => checkLines(readPaper([page], context), readRows([page]), [page]);

test("lines that come to the net amount raise no doubt, to the penny for each line", () => {
  expect(checked(paper("2,032.00")).doubts).toEqual([]);
  expect(checked(paper("2,032.02")).doubts).toEqual([]);
});

test("lines that do not are said, and the net is not sure", () => {
  const found = checked(paper("2,132.00"));
  expect(found.doubts).toEqual([{ code: "lines-differ", fields: ["net"], detail: "2032.00 ≠ 2132.00" }]);
  expect(found.readings.find((r) => r.field === "net")?.certainty).toBeLessThanOrEqual(0.7);
});

test("a sum of the goods that is printed, before carriage or a discount, explains the difference", () => {
  expect(
    checked(
      paper("2,132.00", [
        [400, 262, "Carriage"],
        [506, 262, "100.00"],
        [400, 271, "Goods 2,032.00"],
      ]),
    ).doubts,
  ).toEqual([]);
});

test("of some pages nothing can be said", () => {
  const [first, last] = [paper("2,132.00"), paper("2,132.00", [], 4)];
  expect(checkLines(readPaper([first, last], context), readRows([first, last]), [first, last]).doubts).toEqual([]);
});

test("an e-invoice's lines are those of a document, with units as people write them", () => {
  const element = (name: string, children: readonly XmlElement[] | string, attributes: Record<string, string> = {}): XmlElement => ({
    name,
    attributes,
    text: typeof children === "string" ? children : "",
    children: typeof children === "string" ? [] : children,
  });
  const line = (unit: string): XmlElement =>
    element("InvoiceLine", [
      element("ID", "1"),
      element("InvoicedQuantity", "5800", { unitCode: unit }),
      element("LineExtensionAmount", "4118.00"),
      element("Item", [element("Name", "Marine gas oil")]),
      element("Price", [element("PriceAmount", "0.71")]),
    ]);
  const invoice = readEInvoice(element("Invoice", [element("ID", "77"), line("LTR"), line("XBX")]));
  if (!invoice) throw new Error("not read");
  expect(rowsOfEInvoice(invoice)).toEqual({
    lines: [
      { text: "Marine gas oil", quantity: "5800", unit: "l", price: "0.71", amount: "4118.00", page: null, box: null },
      { text: "Marine gas oil", quantity: "5800", unit: "XBX", price: "0.71", amount: "4118.00", page: null, box: null },
    ],
    invoices: [],
    isWhole: true,
  });
});
