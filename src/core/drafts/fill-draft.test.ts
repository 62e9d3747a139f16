import type { Reading } from "../reading/reading.ts";
import { recordTypeSchema } from "../records/record-type.ts";
import { draftFields, draftTitle, fillDraft, isUnsure, linesOfPaper } from "./fill-draft.ts";

const type = recordTypeSchema.parse({
  key: "supplierInvoice",
  label: "Supplier invoice",
  plural: "Supplier invoices",
  kind: "passing",
  icon: "receipt",
  short: "Invoice",
  order: 1,
  parent: ["supplierAccount"],
  draft: { needs: ["documentNumber"], papers: ["supplierInvoice"], titleFrom: ["documentNumber"], lines: true },
  fields: [
    { key: "documentNumber", label: "Number", kind: "text" },
    { key: "orderNumber", label: "Order", kind: "text" },
    { key: "total", label: "Total", kind: "amount" },
    { key: "currency", label: "Currency", kind: "text" },
    { key: "description", label: "Description", kind: "text" },
  ],
});
const reading = (field: Reading["field"], value: string, certainty = 0.98, from: Reading["from"] = "page"): Reading => ({
  field,
  value,
  certainty,
  page: 1,
  box: [10, 20, 30, 10],
  text: value,
  label: null,
  others: [],
  from,
});
const order = {
  type: "purchaseOrder",
  key: "PO-6127",
  title: "Bunkering",
  currency: "GBP",
  fields: { description: "Bunkering", total: "99.00" },
};

test("values come from the document first, then from the record before it, each with where it came from", () => {
  const { values, sources } = fillDraft(
    type,
    [reading("documentNumber", "77-3108"), reading("total", "12.00"), reading("orderReference", "PO 6l27")],
    order,
  );
  expect(values).toEqual({ documentNumber: "77-3108", orderNumber: "PO-6127", total: "12.00", currency: "GBP", description: "Bunkering" });
  expect(sources["documentNumber"]).toMatchObject({ from: "paper", page: 1, text: "77-3108" });
  expect(sources["orderNumber"]).toEqual({ from: "record", key: "PO-6127" });
  expect(sources["currency"]).toEqual({ from: "record", key: "PO-6127" });
});

test("the total of the order is not the invoice's, and what is hardly read is left open", () => {
  const { values } = fillDraft(type, [reading("documentNumber", "77", 0.3)], order);
  expect(values["total"]).toBeUndefined();
  expect(values["documentNumber"]).toBeUndefined();
});

test("what a person confirmed is sure, what was read so-so is to be looked at", () => {
  const { sources } = fillDraft(type, [reading("documentNumber", "77", 0.2, "person"), reading("total", "1.00", 0.6)], null);
  expect(isUnsure(sources["documentNumber"])).toBe(false);
  expect(isUnsure(sources["total"])).toBe(true);
  expect(isUnsure(undefined)).toBe(false);
});

test("title, needed fields and lines", () => {
  expect(draftTitle(type, { documentNumber: "77-3108" }, "Tarrin Marine Fuels")).toBe("Tarrin Marine Fuels 77-3108");
  expect(draftTitle(type, {}, null)).toBe("Supplier invoice");
  expect(
    draftFields(type)
      .filter((f) => f.required)
      .map((f) => f.key),
  ).toEqual(["documentNumber"]);
  expect(linesOfPaper([{ text: "Toner", quantity: "2", unit: "each", price: null, amount: "10.00", page: 1, box: null }])).toEqual([
    { text: "Toner", quantity: "2", unit: "each", amount: "10.00" },
  ]);
});
