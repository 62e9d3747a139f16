import { askForMissing } from "./ask-for-missing.ts";
import { compareDelivery } from "./compare-delivery.ts";
import { compareStatement, type KnownInvoice } from "./compare-statement.ts";
import { startingTolerance } from "./tolerance.ts";
import { sentenceOf } from "./words.ts";

const stated = (number: string, amount: string) => ({
  number,
  date: "2026-10-04",
  amount,
  page: 1,
  box: [50, 200, 400, 10] as const,
  text: "",
});
const known = (number: string, total: string, over: Partial<KnownInvoice> = {}): KnownInvoice => ({
  number,
  date: "2026-10-04",
  total,
  currency: "GBP",
  as: "record",
  isPaid: false,
  hasPaper: true,
  at: `supplierInvoice:${number}`,
  label: number,
  ...over,
});

describe("a statement beside our invoices", () => {
  const found = compareStatement({
    stated: [
      stated("BH-301", "10.00"),
      stated("BH 302", "20.00"),
      stated("BH-303", "30.00"),
      stated("BH-304", "40.00"),
      stated("BH-305", "50.00"),
    ],
    total: "150.00",
    asOf: "2026-10-31",
    known: [
      known("BH-301", "10.00", { isPaid: true }),
      known("bh302", "20.00"),
      known("BH-303", "33.00"),
      known("BH-304", "40.00", { as: "arrival", at: "an-id", label: "scan.pdf" }),
      known("BH-299", "9.00"),
      known("BH-400", "9.00", { date: "2026-11-05" }),
    ],
  });
  test("each is paid, on file, there with another amount, waiting, or missing", () => {
    expect(found.lines.map((l) => l.state)).toEqual(["paid", "on-file", "other-amount", "waiting", "missing"]);
    expect(found.lines[2]?.difference).toBe("-3.00");
    expect(sentenceOf(found, "S-2010", "GBP")).toEqual({
      text: "5 invoices: 1 missing, 1 with a different amount, 1 paid, 1 waiting, 1 filed",
      tone: "wrong",
    });
  });
  test("what is open with us and not on it is named, but for what came later", () => {
    expect(found.unstated.map((u) => u.label)).toEqual(["BH-299"]);
  });
  test("a mail asks for the missing one, in the statement's language", () => {
    const ask = (language: string) =>
      askForMissing({ lines: found.lines, to: "a@b.example", language, asOf: "2026-10-31", currency: "GBP", signature: "Isla Rowe" });
    expect(ask("en")).toMatchObject({ to: "a@b.example", subject: "Copy of invoice BH-305" });
    expect(ask("en")?.body).toContain("- BH-305, dated 4 October 2026, GBP 50.00");
    expect(ask("en")?.body).toContain("- BH-303: GBP 30.00 on your statement, GBP 33.00 on the invoice");
    expect(ask("de")?.subject).toBe("Kopie der Rechnung BH-305");
    expect(ask("fr")?.body).toContain("Cordialement\nIsla Rowe");
    expect(askForMissing({ lines: [], to: null, language: null, asOf: null, currency: null, signature: "" })).toBeNull();
  });
  test("a balance that its lines do not come to is said; no list is no answer", () => {
    const off = compareStatement({ stated: [stated("BH-301", "10.00")], total: "11.00", asOf: null, known: [known("BH-301", "10.00")] });
    expect(sentenceOf(off, "S", null).text).toBe("One invoice: 1 filed; they do not add up to its balance");
    expect(compareStatement({ stated: [], total: null, asOf: null, known: [] }).verdict).toBe("cannot-tell");
  });
  test("a number is found by its figures where they name one invoice only", () => {
    const only = compareStatement({ stated: [stated("RE 26-0815", "10.00")], total: null, asOf: null, known: [known("260815", "10.00")] });
    expect(only.lines[0]?.state).toBe("on-file");
    const two = compareStatement({
      stated: [stated("RE 26-0815", "10.00")],
      total: null,
      asOf: null,
      known: [known("A-260815", "10.00"), known("B-260815", "10.00")],
    });
    expect(two.lines[0]?.state).toBe("missing");
  });
});

describe("a delivery beside its order", () => {
  const ordered = [
    { text: "Deck paint, oxide red, 20 l", quantity: "3" },
    { text: "Toner, black", quantity: "10" },
  ];
  const paper = (text: string, quantity: string) => ({ text, quantity, unit: null, price: null, amount: null, page: 1, box: null });
  const compare = (lines: ReturnType<typeof paper>[], fields: { field: string; paper: string; record: string }[] = []) =>
    compareDelivery({ paper: lines, ordered, receipts: [], fields, tolerance: startingTolerance });
  test("as ordered", () => {
    expect(sentenceOf(compare([paper("Deck paint oxide red", "3"), paper("Toner black", "10")]), "PO-1", null)).toEqual({
      text: "As ordered on PO-1, all 2 lines",
      tone: "good",
    });
  });
  test("short, over, missing and never ordered", () => {
    const found = compare([paper("Deck paint, oxide red, 20 l", "2"), paper("Ship's biscuit", "1")]);
    expect(found.lines.map((l) => [l.state, l.difference])).toEqual([
      ["short", "-1"],
      ["unordered", null],
      ["missing", null],
    ]);
    expect(sentenceOf(found, "PO-1", null).text).toBe("Deck paint, oxide red, 20 l: 2 of 3, and 2 more differences");
  });
  test("a booking has no lines: vessel and sailing are compared", () => {
    const found = compareDelivery({
      paper: [],
      ordered: [],
      receipts: [],
      fields: [{ field: "Vessel", paper: "MV Sandling", record: "MV Pale Heron" }],
      tolerance: startingTolerance,
    });
    expect(sentenceOf(found, "B-20418", null).text).toBe("Vessel: MV Sandling on the document, MV Pale Heron on B-20418");
  });
});
