import fc from "fast-check";
import { fieldValuesSchema } from "../documents/properties-schema.ts";
import { prefillProperties } from "../documents/prefill-properties.ts";
import { isCalendarDay, parseFieldValues } from "./parse-field-values.ts";
import { matchesPieces, parseLookup } from "./parse-lookup.ts";
import { rankLookup } from "./rank-lookup.ts";
import type { Field } from "./record-type.ts";

const field = (key: string, kind: Field["kind"], more: Partial<Field> = {}): Field => ({ key, label: key, kind, required: false, ...more });
const fields = [
  field("total", "amount"),
  field("count", "number"),
  field("day", "date"),
  field("signed", "yesNo"),
  field("text", "text"),
  field("kind", "choice", { choices: ["Red", "Blue"] }),
  field("must", "text", { required: true }),
];
const one = (key: string, value: unknown) => {
  const { values, errors } = parseFieldValues(fields, { must: "x", [key]: value });
  return errors.length > 0 ? "wrong" : values[key];
};

describe("Typed fields", () => {
  const cases: readonly (readonly [string, unknown, unknown])[] = [
    ["total", "12.5", "12.50"],
    ["total", 12, "12.00"],
    ["total", "0.7125", "0.7125"],
    ["total", "1.234,00", "wrong"],
    ["total", "1e9", "wrong"],
    ["total", NaN, "wrong"],
    ["count", "7", "7"],
    ["count", "-3.25", "-3.25"],
    ["day", "2026-11-18", "2026-11-18"],
    ["day", "2026-02-30", "wrong"],
    ["day", "18.11.2026", "wrong"],
    ["day", "2024-02-29", "2024-02-29"],
    ["signed", "Yes", true],
    ["signed", false, false],
    ["signed", "perhaps", "wrong"],
    ["text", "  hello ", "hello"],
    ["text", "", null],
    ["text", "a\u0007b", "wrong"],
    ["text", { a: 1 }, "wrong"],
    ["kind", "red", "Red"],
    ["kind", "green", "wrong"],
    ["must", " ", "wrong"],
    ["unknown", "x", "wrong"],
  ];
  test.each(cases)("%s: %j becomes %j", (key, given, kept) => expect(one(key, given)).toEqual(kept));
  test("a required field may be missing while one still fills in", () =>
    expect(parseFieldValues(fields, {}, { partial: true }).errors).toEqual([]));
  test("the Zod schema says which field is wrong", () => {
    const checked = fieldValuesSchema(fields).safeParse({ must: "x", total: "much" });
    expect(checked.success).toBe(false);
    expect(checked.error?.issues[0]?.path).toEqual(["total"]);
  });
  test("every day that exists is a day, and none besides", () => {
    fc.assert(
      fc.property(fc.date({ min: new Date("1900-01-01"), max: new Date("2199-12-31"), noInvalidDate: true }), (d) =>
        expect(isCalendarDay(d.toISOString().slice(0, 10))).toBe(true),
      ),
    );
    for (const day of ["2025-02-29", "2026-13-01", "2026-00-10", "2026-04-31", "2026-4-1"]) expect(isCalendarDay(day)).toBe(false);
  });
});

describe("Choosing a record fills the properties", () => {
  const order = { key: "PO-6127", title: "Bunkering", type: "purchaseOrder", currency: "GBP", fields: { total: "5835.00", net: null } };
  const properties = [field("orderNumber", "text"), field("total", "amount"), field("net", "amount"), field("currency", "text")];
  test("from its fields, its key and its currency", () =>
    expect(prefillProperties(properties, [order], {})).toEqual({ orderNumber: "PO-6127", total: "5835.00", net: null, currency: "GBP" }));
  test("what a person typed stays, also when it was emptied", () =>
    expect(prefillProperties(properties, [order], { total: "1.00", orderNumber: "" })).toMatchObject({ total: "1.00", orderNumber: "" }));
  test("the first record that has a value wins", () =>
    expect(
      prefillProperties(
        properties,
        [
          { ...order, fields: {} },
          { ...order, fields: { total: "9.00" } },
        ],
        {},
      )["total"],
    ).toBe("9.00"));
});

describe("Amounts as people copy them from a page", () => {
  test.each([
    ["5,835.00", "5835.00"],
    ["1,234,567.5", "1234567.50"],
    ["-1,000", "-1000.00"],
    ["5835", "5835.00"],
    ["5,83", null],
    ["12,34,567", null],
    ["1.234,56", null],
  ])("%s → %s", (typed, kept) => expect(parseFieldValues(fields, { total: typed }, { partial: true }).values["total"] ?? null).toBe(kept));
});

describe("Look-up", () => {
  test("takes words apart, folds them, and keeps wildcards", () => {
    expect(parseLookup(" Brae  HÖLM ")).toMatchObject({ folded: "brae holm", patterns: ["%brae%", "%holm%"], hasWildcard: false });
    expect(parseLookup("B-204*")).toMatchObject({ patterns: ["%b-204%%"], hasWildcard: true });
    expect(parseLookup("   ").patterns).toEqual([]);
    expect(parseLookup("* **").patterns).toEqual([]);
  });
  test("takes what is special to LIKE as itself", () => expect(parseLookup("50%_\\").patterns).toEqual(["%50\\%\\_\\\\%"]));
  test("ranks the key, its number, its beginning, then titles, then the rest; the last used first", () => {
    const rows = [
      { key: "31-5269", title: "Invoice", recency: 0, isStanding: false },
      { key: "PO-61270", title: "Paint", recency: 1, isStanding: false },
      { key: "PO-6127", title: "Bunkering", recency: 2, isStanding: false },
      { key: "X-9", title: "6127 street", recency: 3, isStanding: false },
      { key: "6127", title: "Own", recency: 4, isStanding: false },
    ];
    expect(rankLookup(parseLookup("6127"), rows).map((r) => r.key)).toEqual(["6127", "PO-6127", "PO-61270", "X-9", "31-5269"]);
    expect(rankLookup(parseLookup("po 6127"), rows)[0]?.key).toBe("PO-6127");
    expect(rankLookup(parseLookup(""), rows).map((r) => r.recency)).toEqual([0, 1, 2, 3, 4]);
  });
  test("a key that fits the stars goes before records that hold the pieces anywhere", () => {
    const row = (key: string, recency: number) => ({ key, title: "Hydraulic oil, PO-61 of 7 July", recency, isStanding: false });
    expect(rankLookup(parseLookup("PO-61*7"), [row("PO-6120", 0), row("GR-1", 1), row("PO-6127", 9)]).map((r) => r.key)[0]).toBe("PO-6127");
    expect(rankLookup(parseLookup("*6127"), [row("X-1", 0), row("PO-6127", 9)])[0]?.key).toBe("PO-6127");
  });
  test.each([
    ["po6127", "PO-61*7", true],
    ["po6127", "PO*", true],
    ["po6127", "*27", true],
    ["po6127", "*", true],
    ["po6127", "p*1*7", true],
    ["po6127", "po-6*6*7", false],
    ["po6127", "61*", false],
    ["po6127", "po6127*7", false],
  ])("%s fits %s: %s", (key, typed, fits) => expect(matchesPieces(key, parseLookup(typed).keyPieces)).toBe(fits));
  test("a name means the account before what bears its name", () => {
    const rows = [
      { key: "B-2", title: "Orrin Shellfish, 3 trailers", recency: 0, isStanding: false },
      { key: "C-1042", title: "Orrin Shellfish", recency: 9, isStanding: true },
      { key: "V-1", title: "MV Orrin Light", recency: 1, isStanding: true },
    ];
    expect(rankLookup(parseLookup("orrin"), rows).map((r) => r.key)).toEqual(["C-1042", "B-2", "V-1"]);
  });
});
