import { readRows, sumOfLines } from "./read-rows.ts";
import { pageOf } from "./test-page.ts";

const invoice = (rows: readonly (readonly [number, number, string])[]) => readRows([pageOf(rows)]);

describe("lines of goods", () => {
  test("are read by the heads of their columns, with units, until the sums", () => {
    const rows = invoice([
      [56, 200, "Description"],
      [340, 200, "Qty"],
      [420, 200, "Price"],
      [500, 200, "Amount"],
      [56, 220, "Marine gas oil DMA, bunkered"],
      [320, 220, "6,400 l"],
      [420, 220, "0.712"],
      [494, 220, "4,556.80"],
      [56, 240, "Hose crew, out of hours"],
      [340, 240, "1 h"],
      [420, 240, "180.00"],
      [500, 240, "180.00"],
      [400, 280, "Net"],
      [494, 280, "4,736.80"],
    ]);
    expect(rows.lines.map(({ text, quantity, unit, price, amount }) => ({ text, quantity, unit, price, amount }))).toEqual([
      { text: "Marine gas oil DMA, bunkered", quantity: "6400", unit: "l", price: "0.712", amount: "4556.80" },
      { text: "Hose crew, out of hours", quantity: "1", unit: null, price: "180.00", amount: "180.00" },
    ]);
    expect(rows.isWhole).toBe(true);
    expect(sumOfLines(rows)).toBe("4736.80");
    expect(rows.lines[0]?.box?.[1]).toBe(220);
  });

  test("German heads and numbers; a description that runs on", () => {
    const rows = invoice([
      [56, 200, "Bezeichnung"],
      [330, 200, "Menge"],
      [400, 200, "Einzelpreis"],
      [500, 200, "Betrag"],
      [56, 220, "Festmacherleine 48 mm,"],
      [340, 220, "2"],
      [430, 220, "645,00"],
      [488, 220, "1.290,00"],
      [56, 231, "110 m"],
      [56, 250, "Toner"],
      [334, 250, "10"],
      [436, 250, "74,20"],
      [500, 250, "742,00"],
      [400, 290, "Summe netto"],
      [488, 290, "2.032,00"],
    ]);
    expect(rows.lines.map((l) => [l.text, l.quantity, l.price, l.amount])).toEqual([
      ["Festmacherleine 48 mm, 110 m", "2", "645.00", "1290.00"],
      ["Toner", "10", "74.20", "742.00"],
    ]);
  });

  test("a delivery note has quantities and no prices", () => {
    const rows = invoice([
      [56, 200, "Goods"],
      [300, 200, "Quantity"],
      [450, 200, "Packed"],
      [56, 220, "Deck paint, oxide red, 20 l"],
      [318, 220, "3 tin"],
      [474, 220, "1"],
    ]);
    expect(rows.lines).toMatchObject([{ text: "Deck paint, oxide red, 20 l", quantity: "3", unit: "tin", price: null, amount: null }]);
    expect(sumOfLines(rows)).toBeNull();
  });

  test("a line whose amount is not its quantity times its price is no ground to doubt the sum", () => {
    const rows = invoice([
      [56, 200, "Item"],
      [340, 200, "Qty"],
      [420, 200, "Price"],
      [500, 200, "Total"],
      [56, 220, "Rope, per 100"],
      [340, 220, "250"],
      [420, 220, "12.00"],
      [500, 220, "30.00"],
      [400, 280, "Subtotal"],
      [500, 280, "99.00"],
    ]);
    expect(rows.lines).toHaveLength(1);
    expect(sumOfLines(rows)).toBeNull();
  });

  test("what is in no table is not read, and sums of a document are no table", () => {
    expect(
      invoice([
        [56, 100, "Date"],
        [200, 100, "Total"],
        [56, 120, "18.11.2026"],
        [200, 120, "99.00"],
      ]).lines,
    ).toEqual([]);
    expect(readRows([])).toEqual({ lines: [], invoices: [], isWhole: false });
  });
});

describe("invoices of a statement", () => {
  test("number, day and amount of each, without the balance", () => {
    const rows = invoice([
      [56, 200, "Invoice"],
      [300, 200, "Date"],
      [500, 200, "Amount"],
      [56, 220, "BH-301"],
      [280, 220, "4 October 2026"],
      [506, 220, "214.40"],
      [56, 240, "BH-318"],
      [280, 240, "19 October 2026"],
      [512, 240, "96.12"],
      [56, 260, "Balance"],
      [506, 260, "310.52"],
    ]);
    expect(rows.invoices.map(({ number, date, amount }) => ({ number, date, amount }))).toEqual([
      { number: "BH-301", date: "2026-10-04", amount: "214.40" },
      { number: "BH-318", date: "2026-10-19", amount: "96.12" },
    ]);
    expect(rows.lines).toEqual([]);
  });

  test("credits are negative, in a column of their own or with a minus", () => {
    const rows = invoice([
      [56, 200, "Rechnung"],
      [200, 200, "Datum"],
      [360, 200, "Soll"],
      [460, 200, "Haben"],
      [56, 220, "R-501-26"],
      [200, 220, "04.10.2026"],
      [350, 220, "1.214,40"],
      [56, 240, "G-12"],
      [200, 240, "05.10.2026"],
      [454, 240, "100,00"],
    ]);
    expect(rows.invoices.map((i) => i.amount)).toEqual(["1214.40", "-100.00"]);
  });

  test("a page of a scan keeps its places; letters for figures are mended in numbers of lines", () => {
    const rows = readRows([
      pageOf(
        [
          [56, 200, "Description"],
          [340, 200, "Qty"],
          [500, 200, "Amount"],
          [56, 220, "Shackle"],
          [340, 220, "1O"],
          [500, 220, "547.8O"],
        ],
        { fromPicture: true },
      ),
    ]);
    expect(rows.lines).toMatchObject([{ quantity: "10", amount: "547.80" }]);
  });
});
