import type { ChecklistInput } from "#core/checklists/checklist-rules.ts";
import type { When } from "#core/checklists/checklist-rules.ts";

type Items = ChecklistInput["items"];
const from = (field: string, day: string): When => ({ on: "field", field, compare: "isFrom", value: day });
const contains = (field: string, words: string): When => ({ on: "field", field, compare: "contains", value: words });
const signed = { field: "signed", compare: "is", value: "yes" } as const;
/** Checklists began with the sailings of November and the purchases of October; what is older is not asked for. */
const sailings = from("sailingDate", "2026-11-01");
const claims = from("sailingDate", "2026-08-01");
const purchases = from("orderDate", "2026-10-01");
const invoices = from("documentDate", "2026-10-01");

/** What documents the records of Merrowick Sound must have. */
export const checklists: Readonly<Record<string, Items>> = {
  freightBooking: [
    {
      key: "request",
      label: "Booking request",
      documentTypes: ["bookingRequest"],
      when: [sailings],
      missing: "Ask the shipper for it in writing",
    },
    {
      key: "packingList",
      label: "Packing list",
      documentTypes: ["packingList"],
      when: [sailings],
      due: { field: "sailingDate", days: -1 },
      along: "chain",
      missing: "The mate cannot plan the deck without it",
    },
    {
      key: "temperatureLog",
      label: "Temperature log",
      documentTypes: ["temperatureLog"],
      when: [sailings, contains("description", "chilled")],
      due: { field: "sailingDate", days: 1 },
      settledBy: "person",
      along: "chain",
      missing: "Comes with the trailer; the quay office has it",
    },
    {
      key: "dangerousGoods",
      label: "Dangerous goods note",
      documentTypes: ["dangerousGoodsNote"],
      when: [sailings, contains("description", "whisky")],
      due: { field: "sailingDate", days: -2 },
      settledBy: "person",
      missing: "Spirits do not sail without it",
    },
    {
      key: "loadingList",
      label: "Signed loading list",
      documentTypes: ["loadingList"],
      papersThat: [signed],
      when: [sailings, { on: "chain", recordType: "loadingConfirmation", there: true }],
      due: { field: "sailingDate", days: 2 },
      along: "chain",
      missing: "The mate signs it; the quay office scans it",
    },
  ],
  purchaseOrder: [
    { key: "order", label: "Purchase order", documentTypes: ["purchaseOrder"], when: [purchases] },
    {
      key: "deliveryNote",
      label: "Delivery note",
      documentTypes: ["deliveryNote"],
      when: [purchases, { on: "chain", recordType: "goodsReceipt", there: true }],
      due: { field: "orderDate", days: 21 },
      along: "chain",
      missing: "Ask the person who received the goods",
    },
  ],
  supplierInvoice: [
    { key: "invoice", label: "Invoice", documentTypes: ["supplierInvoice"], when: [invoices], due: { field: "documentDate", days: 7 } },
    { key: "order", label: "Order", documentTypes: ["purchaseOrder", "orderConfirmation"], when: [invoices], along: "chain" },
    {
      key: "approval",
      label: "Signed approval",
      documentTypes: ["letter", "minutes"],
      papersThat: [],
      when: [invoices, { on: "field", field: "total", compare: "isFrom", value: "10000" }],
      due: { field: "documentDate", days: 14 },
      settledBy: "person",
      acceptedBy: ["Controller", "Records administrator"],
      missing: "Above 10,000 the board signs",
    },
  ],
  damageClaim: [
    {
      key: "form",
      label: "Claim form",
      documentTypes: ["claimForm"],
      papersThat: [signed],
      when: [claims],
      missing: "The shipper has to sign it",
    },
    { key: "photos", label: "Photographs", documentTypes: ["photo"], when: [claims], due: { field: "sailingDate", days: 7 } },
    {
      key: "survey",
      label: "Survey report",
      documentTypes: ["surveyReport"],
      when: [claims, { on: "field", field: "total", compare: "isFrom", value: "1000" }],
      due: { field: "sailingDate", days: 21 },
      settledBy: "person",
      missing: "From 1,000 the insurer wants a surveyor",
    },
  ],
  crewMember: [
    {
      key: "medical",
      label: "Medical certificate",
      documentTypes: ["medicalCertificate"],
      validity: { kind: "property", property: "validUntil" },
      settledBy: "person",
      acceptedBy: ["Crew office", "Records administrator"],
      missing: "Nobody sails without it",
    },
    { key: "contract", label: "Contract", documentTypes: ["crewContract"], papersThat: [signed] },
  ],
  vessel: [
    {
      key: "certificates",
      label: "Statutory certificates",
      documentTypes: ["certificate"],
      count: 3,
      validity: { kind: "property", property: "validUntil" },
      missing: "Passenger safety, load line, radio",
    },
  ],
  stockItem: [
    {
      key: "batch",
      label: "Batch certificate",
      documentTypes: ["batchCertificate"],
      validity: { kind: "property", property: "validUntil" },
      when: [{ on: "field", field: "batch", compare: "isNotEmpty", value: "" }],
    },
  ],
  customerAccount: [
    {
      key: "terms",
      label: "Signed terms",
      documentTypes: ["customerAgreement"],
      papersThat: [signed],
      validity: { kind: "property", property: "validUntil" },
      when: [{ on: "field", field: "currency", compare: "isNotEmpty", value: "" }],
      missing: "New terms go out each December",
    },
  ],
  bankReconciliation: [
    { key: "statement", label: "Bank statement", documentTypes: ["bankStatement"], when: [from("documentDate", "2026-01-01")] },
    {
      key: "sheet",
      label: "Reconciliation sheet",
      documentTypes: ["reconciliationSheet"],
      when: [from("documentDate", "2026-01-01")],
      settledBy: "person",
      acceptedBy: ["Controller", "Records administrator"],
    },
  ],
};

/** Who answers for the records of a type in a company, by mail address; records beneath an account follow the account. */
export const responsible: readonly { readonly type: string; readonly company: string; readonly email: string }[] = [
  { type: "customerAccount", company: "MF", email: "nessa.quill@merrowick.example" },
  { type: "customerAccount", company: "QS", email: "odran.vane@merrowick.example" },
  { type: "supplierAccount", company: "MF", email: "tam.corrigall@merrowick.example" },
  { type: "supplierAccount", company: "QS", email: "tam.corrigall@merrowick.example" },
  { type: "crewMember", company: "MF", email: "maren.holt@merrowick.example" },
  { type: "bankAccount", company: "MF", email: "bram.ellery@merrowick.example" },
];
