/** How a type of document is compared, by its key in the set-up. */
const kinds = {
  supplierInvoice: "invoice",
  supplierCreditNote: "credit",
  orderConfirmation: "confirmation",
  quotation: "confirmation",
  supplierStatement: "statement",
  deliveryNote: "delivery",
  packingList: "delivery",
  loadingList: "delivery",
} as const;
export type ComparedAs = (typeof kinds)[keyof typeof kinds];

/** How documents of a document type are compared; null for those that are not. */
export function comparedAs(documentType: string): ComparedAs | null {
  return Object.hasOwn(kinds, documentType) ? kinds[documentType as keyof typeof kinds] : null;
}

/** Record types by their part in a purchase or a shipment, as the set-up calls them. */
export const parts = {
  order: "purchaseOrder",
  receipt: "goodsReceipt",
  invoice: "supplierInvoice",
  booking: "freightBooking",
  loading: "loadingConfirmation",
  payment: "payment",
} as const;

/** Words of a record's status that say that nothing is open any more. */
export const paidWords = /^(paid|settled|cleared|bezahlt|paye)$/i;
