import { type FieldPlace, placeOfValue, type SeenPlace } from "./learn-layout.ts";
import { linesOfText, type ReadPage } from "./page-lines.ts";
import { readPaper } from "./read-paper.ts";
import type { ReadingField } from "./reading.ts";
import { context, pageOf } from "./test-page.ts";

const valuesOf = (pages: readonly ReadPage[], more: Partial<Parameters<typeof readPaper>[1]> = {}): Readonly<Record<string, string>> =>
  Object.fromEntries([...readPaper(pages, { ...context, ...more }).readings].reverse().map((r) => [r.field, r.value]));
const reading = (page: ReadPage, field: ReadingField, more: Partial<Parameters<typeof readPaper>[1]> = {}) =>
  readPaper([page], { ...context, ...more }).readings.find((r) => r.field === field);

const english = pageOf([
  [56, 50, "Tarrin Marine Fuels Ltd"],
  [430, 60, "INVOICE"],
  [430, 80, "No. 77-3108"],
  [430, 96, "18 November 2026"],
  [56, 110, "Merrowick Ferries Ltd"],
  [56, 160, "Your order: PO-6127   Vessel: MV Pale Heron"],
  [56, 200, "Description"],
  [300, 200, "Qty"],
  [400, 200, "Price"],
  [500, 200, "Amount"],
  [56, 216, "Marine gas oil"],
  [300, 216, "6,400"],
  [400, 216, "0.712"],
  [500, 216, "4,556.80"],
  [400, 300, "Net"],
  [500, 300, "4,862.50"],
  [400, 316, "VAT 20 %"],
  [500, 316, "972.50"],
  [400, 332, "Total"],
  [480, 332, "GBP 5,835.00"],
  [56, 780, "IBAN GB80 MRWK 0000 0000 4502 53 · due 18 December 2026 · VAT GB951945396"],
]);

describe("An English invoice", () => {
  test("is read with all its fields", () =>
    expect(valuesOf([english])).toMatchObject({
      documentNumber: "77-3108",
      documentDate: "2026-11-18",
      dueDate: "2026-12-18",
      orderReference: "PO-6127",
      net: "4862.50",
      tax: "972.50",
      total: "5835.00",
      currency: "GBP",
      iban: "GB80MRWK00000000450253",
      vatNumber: "GB951945396",
      party: "Tarrin Marine Fuels Ltd",
    }));
  test("shows where each stood, in the very words", () => {
    const total = reading(english, "total");
    expect(total).toMatchObject({ page: 1, text: "GBP 5,835.00", label: "Total" });
    expect(total?.box?.[1]).toBe(332);
    expect(total?.certainty).toBeGreaterThan(0.95);
  });
});

test("a German invoice with its labels above the values", () => {
  const page = pageOf([
    [56, 50, "Hartwin Kessel GmbH"],
    [56, 120, "Rechnung"],
    [56, 150, "Rechnungs-Nr."],
    [200, 150, "Rechnungsdatum"],
    [340, 150, "Ihre Bestellung"],
    [470, 150, "Kunden-Nr."],
    [56, 164, "RE-2026-1044"],
    [200, 164, "03.11.2026"],
    [340, 164, "PO 6127"],
    [470, 164, "40131"],
    [360, 300, "Nettobetrag"],
    [480, 300, "1.000,00 EUR"],
    [360, 316, "zzgl. 19 % MwSt."],
    [480, 316, "190,00 EUR"],
    [360, 332, "Rechnungsbetrag"],
    [480, 332, "1.190,00 EUR"],
    [56, 360, "Wir danken für Ihren Auftrag. Bitte zahlen Sie den Betrag auf das Konto bis zum 03.12.2026."],
  ]);
  expect(valuesOf([page])).toMatchObject({
    documentNumber: "RE-2026-1044",
    documentDate: "2026-11-03",
    orderReference: "PO 6127",
    customerNumber: "40131",
    net: "1000.00",
    tax: "190.00",
    total: "1190.00",
    currency: "EUR",
    language: "de",
  });
});

test("running text is read too, and points at where it stands in it", () => {
  const read = readPaper([linesOfText("Invoice number: 77-3108\nInvoice date: 18/11/2026\nTotal due: £120.00")], context).readings;
  expect(read.find((r) => r.field === "documentNumber")).toMatchObject({ value: "77-3108", page: 1, box: [96, 0, 42, 10], from: "text" });
  expect(read.find((r) => r.field === "total")).toMatchObject({ value: "120.00" });
});

describe("What does not fit", () => {
  const sums = (total: string) =>
    pageOf([
      [56, 80, "Invoice No. 1044"],
      [400, 300, "Net"],
      [500, 300, "100.00"],
      [400, 316, "VAT"],
      [500, 316, "20.00"],
      [400, 332, "Total"],
      [500, 332, total],
    ]);
  test("so are those of a scan that lost the sign of per cent behind the rate", () => {
    const page = pageOf(
      [
        [56, 80, "Facture No. 1044"],
        [56, 300, "Sous-total:"],
        [500, 300, "9 573,40"],
        [56, 316, "TVA 20"],
        [500, 316, "1 914,68"],
        [56, 332, "Net à payer"],
        // A one that was read as a four.
        [500, 332, "47 488,08"],
      ],
      { fromPicture: true },
    );
    const read = readPaper([page], context);
    expect(read.doubts).toMatchObject([{ code: "sums-differ", detail: "9573.40 + 1914.68 ≠ 47488.08" }]);
    expect(read.readings.find((r) => r.field === "total")?.certainty).toBeLessThanOrEqual(0.7);
  });
  test("sums that differ are said, and none of them is sure", () => {
    const read = readPaper([sums("130.00")], context);
    expect(read.doubts).toEqual([{ code: "sums-differ", fields: ["net", "tax", "total"], detail: "100.00 + 20.00 ≠ 130.00" }]);
    expect(read.readings.find((r) => r.field === "total")?.certainty).toBeLessThanOrEqual(0.7);
  });
  test("sums that fit are not doubted", () => expect(readPaper([sums("120.00")], context).doubts).toEqual([]));
  test("due before it is dated is said", () => {
    const page = pageOf([
      [56, 80, "Invoice date: 18 November 2026"],
      [56, 96, "Due date: 18 October 2026"],
    ]);
    expect(readPaper([page], context).doubts.map((d) => d.code)).toEqual(["due-before-date"]);
  });
  test("day and month that nothing tells apart are said", () => {
    const page = pageOf([[56, 80, "Invoice date: 03/04/2026"]]);
    const read = readPaper([page], context);
    expect(read.doubts.map((d) => d.code)).toEqual(["day-or-month"]);
    expect(read.readings.find((r) => r.field === "documentDate")).toMatchObject({ value: "2026-04-03", certainty: 0.55 });
    expect(read.readings.find((r) => r.field === "documentDate")?.others.map((o) => o.value)).toContain("2026-03-04");
  });
  test("another day of the document tells them apart", () => {
    const page = pageOf([
      [56, 80, "Invoice date: 03/04/2026"],
      [56, 96, "Delivered 03/28/2026"],
    ]);
    expect(reading(page, "documentDate")?.value).toBe("2026-03-04");
    expect(readPaper([page], context).doubts).toEqual([]);
  });
});

test("a word read off a picture is read with its confusions in mind", () => {
  const page = pageOf(
    [
      [56, 80, "Invoice date: l8 November 2O26"],
      [400, 332, "Total"],
      [500, 332, "5,83S.OO"],
    ],
    { fromPicture: true },
  );
  expect(valuesOf([page])).toMatchObject({ documentDate: "2026-11-18", total: "5835.00" });
});

test("a number in a list of invoices is not the document's own", () => {
  const page = pageOf([
    [56, 60, "Statement"],
    [56, 76, "Statement no. 4410"],
    [56, 200, "Invoice no."],
    [250, 200, "Date"],
    [450, 200, "Amount"],
    [56, 216, "BH-301"],
    [250, 216, "4 October 2026"],
    [450, 216, "214.40"],
    [56, 232, "BH-318"],
    [250, 232, "19 October 2026"],
    [450, 232, "96.12"],
  ]);
  expect(reading(page, "documentNumber")?.value).toBe("4410");
});

/** The same place, confirmed on so many documents. */
const on = (place: FieldPlace | null, times = 1): readonly SeenPlace[] =>
  place ? Array.from({ length: times }, (_, i) => ({ ...place, paper: String(i) })) : [];

describe("A sender's own layout", () => {
  const paper = (number: string, day: string) =>
    pageOf([
      [56, 50, "Lorvel et Fils"],
      [400, 120, "Kennung"],
      [470, 120, number],
      [400, 140, "Ausgabe"],
      [470, 140, day],
      [56, 500, "Andere Kennung 99-1"],
    ]);
  test("with labels nobody knows is read after one document was put right", () => {
    expect(reading(paper("K-1001", "3 November 2026"), "documentNumber")).toBeUndefined();
    const place = placeOfValue([paper("K-1001", "3 November 2026")], "documentNumber", "K-1001");
    expect(place).toMatchObject({ label: "kennung", relation: "left", page: "first" });
    expect(reading(paper("K-1057", "9 November 2026"), "documentNumber", { seen: on(place) })).toMatchObject({
      value: "K-1057",
      from: "learnt",
      label: "Kennung",
    });
  });
  test("is surer after a second one", () => {
    const place = placeOfValue([paper("K-1001", "3 November 2026")], "documentNumber", "K-1001");
    const certainty = (times: number): number =>
      reading(paper("K-1057", "9 November 2026"), "documentNumber", {
        seen: on(place, times),
      })?.certainty ?? 0;
    expect(certainty(2)).toBeGreaterThan(certainty(1));
    expect(certainty(2)).toBeGreaterThan(0.9);
  });
  test("is not forced on a document that looks otherwise", () => {
    const place = placeOfValue([paper("K-1001", "3 November 2026")], "documentNumber", "K-1001");
    const other = pageOf([
      [56, 50, "Lorvel et Fils"],
      [56, 120, "Invoice number: 88-12"],
      [470, 600, "K-9999"],
    ]);
    expect(reading(other, "documentNumber", { seen: on(place) })?.value).toBe("88-12");
  });
  test("adds to what a label usually means, and does not take it away", () => {
    const page = pageOf([[56, 120, "Date 18 November 2026"]]);
    const place: SeenPlace = {
      field: "deliveryDate",
      page: "first",
      label: "date",
      relation: "same",
      x: 0.14,
      y: 0.14,
      right: 0.3,
      shape: "9-9-9",
      paper: "1",
    };
    expect(reading(page, "documentDate", { seen: [place] })?.value).toBe("2026-11-18");
  });
  test("is not learnt from an equal value that plainly is another field", () => {
    const page = pageOf([
      [56, 120, "Invoice date: 18 November 2026"],
      [56, 140, "Delivered 18 November 2026"],
    ]);
    expect(placeOfValue([page], "deliveryDate", "2026-11-18")).toMatchObject({ label: "delivered" });
    expect(placeOfValue([page], "dueDate", "2026-11-18")).toBeNull();
  });
  test("is learnt from where somebody pointed, not from the same value elsewhere", () => {
    const page = pageOf([
      [56, 120, "Unser Zeichen 4711-2"],
      [400, 300, "Sache"],
      [470, 300, "4711-2"],
    ]);
    expect(placeOfValue([page], "documentNumber", "4711-2", { page: 1, box: [468, 298, 40, 14] })).toMatchObject({ label: "sache" });
    expect(placeOfValue([page], "documentNumber", "4711-2", { page: 1, box: [10, 700, 40, 14] })).toBeNull();
  });
});

describe("a number whose label the scan lost", () => {
  const rows = [
    [60, 60, "Halven Radio and Radar"],
    [60, 100, "Merrowick Ferries Ltd"],
    [465, 100, "76849"],
    [60, 112, "Harbour House, Port Halven"],
    [347, 114, "Rechnungsdatum:"],
    [465, 114, "18.10.2026"],
    [347, 128, "Kd.-Nr.:"],
    [465, 128, "40844"],
    [60, 160, "Lieferschein"],
  ] as const;
  const numberOf = (page: ReturnType<typeof pageOf>) => readPaper([page], context).readings.find((r) => r.field === "documentNumber");
  test("is the one that stands alone in the column of the other facts", () => {
    expect(numberOf(pageOf(rows, { fromPicture: true }))).toMatchObject({ value: "76849", label: null });
    expect(numberOf(pageOf(rows, { fromPicture: true }))?.certainty).toBeLessThan(0.95);
  });
  test("is not looked for on a page that has its own words, nor outside the column", () => {
    expect(numberOf(pageOf(rows))).toBeUndefined();
    expect(numberOf(pageOf([...rows.filter((r) => r[2] !== "76849"), [250, 100, "76849"]], { fromPicture: true }))).toBeUndefined();
  });
});
