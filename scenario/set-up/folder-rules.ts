import type { FolderRuleInput } from "#core/filing-plan/folder-rule.ts";

const file = "{title}";
const standing = (rootFolder: string, folderName: string, tellApart: string | null = null): FolderRuleInput => ({
  kind: "standing",
  inside: null,
  rootFolder,
  groupedBy: null,
  folderName,
  tellApart,
  fileName: file,
});
const passing = (rootFolder: string, field: string | null, otherwise: string | null): FolderRuleInput => ({
  kind: "passing",
  inside: otherwise === null ? null : { otherwise },
  rootFolder,
  groupedBy: field === null ? null : { field, period: "year" },
  folderName: "{key}",
  tellApart: null,
  fileName: file,
});

/** The filing plan of Merrowick Sound. Crew members have no rule yet but for their own folder; journals stand by month. */
export const folderRules: Readonly<Record<string, FolderRuleInput>> = {
  customerAccount: standing("Customers", "{name|title} {key}"),
  freightBooking: passing("Bookings", "sailingDate", "Unassigned bookings"),
  loadingConfirmation: passing("Loadings", "sailingDate", "Unassigned loadings"),
  charterAgreement: passing("Charters", "begins", "Unassigned charters"),
  salesInvoice: passing("Invoices", "documentDate", "Unassigned invoices"),
  creditNote: passing("Credit notes", "documentDate", "Unassigned credit notes"),
  damageClaim: passing("Claims", null, "Claims"),
  supplierAccount: standing("Suppliers", "{name|title} {key}"),
  purchaseOrder: passing("Purchase orders", "orderDate", "Unassigned purchase orders"),
  goodsReceipt: passing("Goods receipts", "deliveryDate", "Unassigned goods receipts"),
  supplierInvoice: passing("Invoices", "documentDate", "Unassigned supplier invoices"),
  payment: passing("Payments", "documentDate", "Unassigned payments"),
  contact: {
    kind: "standing",
    inside: { otherwise: "Contacts" },
    rootFolder: "Contacts",
    groupedBy: null,
    folderName: "{name|title}",
    tellApart: "key",
    fileName: file,
  },
  vessel: standing("Fleet", "{name|title}", "key"),
  refit: { ...passing("Refits", null, "Unassigned refits"), folderName: "{key} {title}" },
  crewMember: standing("Crew", "{name|title} {key}"),
  stockItem: standing("Stores", "{name|title} {key}"),
  bankAccount: standing("Bank", "{name|title} {key}"),
  bankReconciliation: passing("Reconciliations", "documentDate", "Unassigned reconciliations"),
  ledgerEntry: { ...passing("Finance/Ledger", "documentDate", null) },
  journal: { ...passing("Finance/Journals", null, null), groupedBy: { field: "documentDate", period: "month" } },
};
