import type { ReadingField } from "#core/reading/reading.ts";

/** What is read off documents, in words; VAT is what people here call it, whatever the document says. */
export const readingWords: Readonly<Record<ReadingField, string>> = {
  buyer: "Buyer",
  payable: "Amount payable",
  party: "From",
  vatNumber: "VAT number",
  iban: "Bank account",
  documentNumber: "Number",
  documentDate: "Dated",
  dueDate: "Due",
  deliveryDate: "Delivered",
  deliveryUntil: "Delivered until",
  currency: "Currency",
  net: "Net",
  tax: "VAT",
  taxAtRate: "VAT at",
  total: "Total",
  orderReference: "Order",
  yourReference: "Their reference",
  customerNumber: "Customer number",
  language: "Language",
  validUntil: "Valid until",
  sailingDate: "Sailing",
  batch: "Batch",
};
