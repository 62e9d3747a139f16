import type { Action, RoleGrant } from "#core/access/grants.ts";

/** Companies of Merrowick Sound. */
export const companies = [
  { code: "MF", name: "Merrowick Ferries Ltd" },
  { code: "QS", name: "Merrowick Quay Services Ltd" },
] as const;

export const queues = [
  { key: "payables", label: "Payables", defaultDocumentType: "supplierInvoice" },
  { key: "sales-desk", label: "Sales desk", defaultDocumentType: "bookingRequest" },
  { key: "quay-office", label: "Quay office", defaultDocumentType: "loadingList" },
  { key: "crew-office", label: "Crew office", defaultDocumentType: "certificate" },
  { key: "general", label: "General", defaultDocumentType: null },
] as const;

const clerk: Action[] = ["see", "add", "file", "edit"];
const crewPapers = ["medicalCertificate", "crewContract", "appraisal"];
const buying = [
  "supplierAccount",
  "purchaseOrder",
  "goodsReceipt",
  "supplierInvoice",
  "payment",
  "contact",
  "vessel",
  "stockItem",
  "refit",
];
const selling = [
  "customerAccount",
  "freightBooking",
  "loadingConfirmation",
  "charterAgreement",
  "salesInvoice",
  "creditNote",
  "damageClaim",
  "payment",
  "contact",
  "vessel",
];
const plainPapers = [
  "bookingRequest",
  "bookingConfirmation",
  "packingList",
  "loadingList",
  "temperatureLog",
  "dangerousGoodsNote",
  "customsForm",
  "charterAgreement",
  "customerAgreement",
  "salesInvoice",
  "creditNote",
  "remittanceAdvice",
  "quotation",
  "purchaseOrder",
  "orderConfirmation",
  "deliveryNote",
  "supplierInvoice",
  "supplierStatement",
  "supplierCreditNote",
  "reminder",
  "certificate",
  "batchCertificate",
  "claimForm",
  "surveyReport",
  "photo",
  "drawing",
  "letter",
  "mail",
  "activity",
  "other",
];

/** Roles: what each grants, in whichever company it is given for. */
export const roles: readonly { readonly key: string; readonly label: string; readonly grants: readonly RoleGrant[] }[] = [
  {
    key: "administrator",
    label: "Records administrator",
    grants: [
      {
        recordTypes: "all",
        documentTypes: "all",
        confidential: true,
        actions: ["see", "add", "file", "edit", "import", "plan", "manage", "register"],
      },
    ],
  },
  {
    key: "filingClerk",
    label: "Filing clerk",
    grants: [{ recordTypes: [...new Set([...buying, ...selling])], documentTypes: plainPapers, confidential: false, actions: clerk }],
  },
  {
    key: "salesDesk",
    label: "Sales desk",
    grants: [{ recordTypes: selling, documentTypes: plainPapers, confidential: false, actions: clerk }],
  },
  {
    key: "quayOffice",
    label: "Quay office",
    grants: [
      {
        recordTypes: [
          "freightBooking",
          "loadingConfirmation",
          "goodsReceipt",
          "purchaseOrder",
          "supplierAccount",
          "customerAccount",
          "damageClaim",
          "vessel",
          "stockItem",
        ],
        documentTypes: plainPapers.filter((t) => !/Invoice|Statement|reminder/.test(t)),
        confidential: false,
        actions: clerk,
      },
    ],
  },
  {
    key: "crewOffice",
    label: "Crew office",
    grants: [
      {
        recordTypes: ["crewMember", "vessel"],
        documentTypes: ["certificate", "letter", "mail", "other", ...crewPapers],
        confidential: true,
        actions: clerk,
      },
    ],
  },
  {
    key: "controller",
    label: "Controller",
    grants: [
      {
        recordTypes: [
          "supplierAccount",
          "purchaseOrder",
          "goodsReceipt",
          "supplierInvoice",
          "payment",
          "salesInvoice",
          "creditNote",
          "ledgerEntry",
          "journal",
          "bankAccount",
          "bankReconciliation",
          "customerAccount",
        ],
        documentTypes: [...plainPapers, "bankStatement", "reconciliationSheet", "journalSupport", "minutes"],
        confidential: false,
        actions: clerk,
      },
    ],
  },
  {
    key: "auditor",
    label: "Auditor",
    grants: [{ recordTypes: "all", documentTypes: "all", confidential: true, actions: ["see", "register"] }],
  },
  {
    key: "lightUser",
    label: "Light user",
    grants: [
      {
        recordTypes: ["freightBooking", "loadingConfirmation", "vessel"],
        documentTypes: ["packingList", "loadingList", "temperatureLog", "bookingConfirmation", "photo", "certificate"],
        confidential: false,
        actions: ["see", "add"],
      },
    ],
  },
];

/** The demo's people; all made up. One password for all, since this is a demo on loopback. */
export const demoPassword = "harbour-light-26";
export const people = [
  {
    name: "Isla Rowe",
    email: "isla.rowe@merrowick.example",
    roles: [
      ["administrator", "MF"],
      ["administrator", "QS"],
    ],
    queues: ["payables", "sales-desk", "quay-office", "crew-office", "general"],
    key: "administrator",
  },
  {
    name: "Tam Corrigall",
    email: "tam.corrigall@merrowick.example",
    roles: [
      ["filingClerk", "MF"],
      ["filingClerk", "QS"],
    ],
    queues: ["payables", "sales-desk", "quay-office", "general"],
    key: "clerk",
  },
  {
    name: "Nessa Quill",
    email: "nessa.quill@merrowick.example",
    roles: [["salesDesk", "MF"]],
    queues: ["sales-desk", "general"],
    key: null,
  },
  { name: "Odran Vane", email: "odran.vane@merrowick.example", roles: [["quayOffice", "QS"]], queues: ["quay-office"], key: null },
  { name: "Maren Holt", email: "maren.holt@merrowick.example", roles: [["crewOffice", "MF"]], queues: ["crew-office"], key: null },
  {
    name: "Bram Ellery",
    email: "bram.ellery@merrowick.example",
    roles: [
      ["controller", "MF"],
      ["controller", "QS"],
    ],
    queues: ["payables"],
    key: null,
  },
  {
    name: "Ferris Dunmore",
    email: "ferris.dunmore@merrowick.example",
    roles: [
      ["auditor", "MF"],
      ["auditor", "QS"],
    ],
    queues: [],
    key: null,
  },
  { name: "Pell Ashby", email: "pell.ashby@merrowick.example", roles: [["lightUser", "MF"]], queues: ["general"], key: "lightUser" },
] as const satisfies readonly {
  name: string;
  email: string;
  roles: readonly (readonly [string, "MF" | "QS"])[];
  queues: readonly string[];
  key: "administrator" | "clerk" | "lightUser" | null;
}[];
