import { isCalendarDay } from "../records/parse-field-values.ts";
import { parseVatNumber } from "./identifiers.ts";
import type { PaperRows } from "./read-rows.ts";
import type { Reading, ReadingField } from "./reading.ts";

/** An element of an XML file, without the prefixes of its names. */
export interface XmlElement {
  readonly name: string;
  readonly attributes: Readonly<Record<string, string>>;
  readonly text: string;
  readonly children: readonly XmlElement[];
}

export interface EInvoiceLine {
  readonly id: string;
  readonly text: string;
  readonly quantity: string | null;
  readonly unit: string | null;
  readonly price: string | null;
  readonly amount: string | null;
  readonly rate: string | null;
}
export interface EInvoiceParty {
  readonly name: string;
  readonly vatNumber: string | null;
  readonly address: string;
}

/** An e-invoice as it says itself (EN 16931: UBL 2.1 and CII). Amounts and days as they stand there. */
export interface EInvoice {
  readonly syntax: "UBL" | "CII";
  readonly isCredit: boolean;
  readonly number: string;
  readonly date: string | null;
  readonly dueDate: string | null;
  readonly deliveryDate: string | null;
  /** The last day of a period of delivery, whose first deliveryDate is then. */
  readonly deliveryUntil: string | null;
  readonly currency: string | null;
  readonly seller: EInvoiceParty;
  readonly buyer: EInvoiceParty;
  readonly buyerReference: string | null;
  readonly orderReference: string | null;
  readonly sellerReference: string | null;
  readonly customerNumber: string | null;
  readonly ibans: readonly string[];
  readonly net: string | null;
  readonly tax: string | null;
  readonly total: string | null;
  readonly payable: string | null;
  readonly taxes: readonly { readonly rate: string | null; readonly base: string | null; readonly amount: string | null }[];
  readonly lines: readonly EInvoiceLine[];
  readonly note: string | null;
}

/** Lines kept of one invoice. */
const LINES_MAX = 2000;
/** Sorts of documents that are credits (UNTDID 1001). */
const credits = new Set(["381", "396", "261", "262", "296", "308", "420", "458", "532", "83"]);

const child = (at: XmlElement | undefined, name: string): XmlElement | undefined => at?.children.find((c) => c.name === name);
/** The element at the end of a path, the first of each. */
const down = (at: XmlElement | undefined, ...path: readonly string[]): XmlElement | undefined =>
  path.reduce<XmlElement | undefined>((e, name) => child(e, name), at);
const all = (at: XmlElement | undefined, name: string): readonly XmlElement[] => at?.children.filter((c) => c.name === name) ?? [];
const text = (at: XmlElement | undefined): string | null => {
  const value = at?.text.trim().replace(/\s+/g, " ") ?? "";
  return value === "" ? null : value.slice(0, 500);
};
const amount = (at: XmlElement | undefined): string | null => {
  const value = text(at);
  return value !== null && /^-?\d{1,15}(\.\d{1,6})?$/.test(value) ? value : null;
};
const day = (value: string | null): string | null => {
  const found = value?.slice(0, 10) ?? "";
  const packed = /^(\d{4})(\d{2})(\d{2})$/.exec(value ?? "");
  const made = packed ? `${packed[1]}-${packed[2]}-${packed[3]}` : found;
  return isCalendarDay(made) ? made : null;
};
const joined = (...parts: readonly (string | null)[]): string => parts.filter((p) => p !== null).join(", ");

/** Reads an e-invoice; null when the file is something else. What is missing or malformed is null; nothing is guessed. */
export function readEInvoice(root: XmlElement): EInvoice | null {
  if ((root.name === "Invoice" || root.name === "CreditNote") && child(root, "ID")) return fromUbl(root);
  if (root.name === "CrossIndustryInvoice" || root.name === "CrossIndustryDocument") return fromCii(root);
  return null;
}

function fromUbl(root: XmlElement): EInvoice {
  const party = (name: string): EInvoiceParty => {
    const at = down(root, name, "Party");
    const address = child(at, "PostalAddress");
    const vat = all(at, "PartyTaxScheme")
      .map((s) => text(child(s, "CompanyID")))
      .find((v) => v !== null);
    return {
      // The legal name (BT-27, BT-44) goes before the one it trades under (BT-28, BT-45).
      name: text(down(at, "PartyLegalEntity", "RegistrationName")) ?? text(down(at, "PartyName", "Name")) ?? "",
      vatNumber: vat ?? null,
      address: joined(
        text(child(address, "StreetName")),
        text(child(address, "PostalZone")),
        text(child(address, "CityName")),
        text(down(address, "Country", "IdentificationCode")),
      ),
    };
  };
  const sums = child(root, "LegalMonetaryTotal");
  const means = all(root, "PaymentMeans");
  const lineName = root.name === "CreditNote" ? "CreditNoteLine" : "InvoiceLine";
  const quantityName = root.name === "CreditNote" ? "CreditedQuantity" : "InvoicedQuantity";
  return {
    syntax: "UBL",
    isCredit: root.name === "CreditNote" || credits.has(text(child(root, "InvoiceTypeCode")) ?? ""),
    number: text(child(root, "ID")) ?? "",
    date: day(text(child(root, "IssueDate"))),
    dueDate: day(text(child(root, "DueDate"))) ?? day(means.map((m) => text(child(m, "PaymentDueDate"))).find((d) => d !== null) ?? null),
    deliveryDate: day(text(down(root, "Delivery", "ActualDeliveryDate"))) ?? day(text(down(root, "InvoicePeriod", "StartDate"))),
    deliveryUntil: down(root, "Delivery", "ActualDeliveryDate") ? null : day(text(down(root, "InvoicePeriod", "EndDate"))),
    currency: text(child(root, "DocumentCurrencyCode")),
    seller: party("AccountingSupplierParty"),
    buyer: party("AccountingCustomerParty"),
    buyerReference: text(child(root, "BuyerReference")),
    orderReference: text(down(root, "OrderReference", "ID")),
    sellerReference: text(down(root, "OrderReference", "SalesOrderID")),
    customerNumber: text(down(root, "AccountingCustomerParty", "Party", "PartyIdentification", "ID")),
    ibans: means.flatMap((m) => text(down(m, "PayeeFinancialAccount", "ID")) ?? []),
    net: amount(child(sums, "TaxExclusiveAmount")),
    tax: amount(
      all(root, "TaxTotal")
        .map((t) => child(t, "TaxAmount"))
        .find((t) => t !== undefined),
    ),
    total: amount(child(sums, "TaxInclusiveAmount")),
    payable: amount(child(sums, "PayableAmount")),
    taxes: all(child(root, "TaxTotal"), "TaxSubtotal").map((s) => ({
      rate: amount(down(s, "TaxCategory", "Percent")),
      base: amount(child(s, "TaxableAmount")),
      amount: amount(child(s, "TaxAmount")),
    })),
    lines: all(root, lineName)
      .slice(0, LINES_MAX)
      .map((l) => ({
        id: text(child(l, "ID")) ?? "",
        text: text(down(l, "Item", "Name")) ?? text(down(l, "Item", "Description")) ?? "",
        quantity: amount(child(l, quantityName)),
        unit: child(l, quantityName)?.attributes["unitCode"] ?? null,
        price: amount(down(l, "Price", "PriceAmount")),
        amount: amount(child(l, "LineExtensionAmount")),
        rate: amount(down(l, "Item", "ClassifiedTaxCategory", "Percent")),
      })),
    note: text(child(root, "Note")),
  };
}

function fromCii(root: XmlElement): EInvoice {
  const head = child(root, "ExchangedDocument") ?? child(root, "HeaderExchangedDocument");
  const deal = child(root, "SupplyChainTradeTransaction") ?? child(root, "SpecifiedSupplyChainTradeTransaction");
  const agreement = child(deal, "ApplicableHeaderTradeAgreement") ?? child(deal, "ApplicableSupplyChainTradeAgreement");
  const delivery = child(deal, "ApplicableHeaderTradeDelivery") ?? child(deal, "ApplicableSupplyChainTradeDelivery");
  const settlement = child(deal, "ApplicableHeaderTradeSettlement") ?? child(deal, "ApplicableSupplyChainTradeSettlement");
  const sums =
    child(settlement, "SpecifiedTradeSettlementHeaderMonetarySummation") ?? child(settlement, "SpecifiedTradeSettlementMonetarySummation");
  const party = (name: string): EInvoiceParty => {
    const at = child(agreement, name);
    const address = child(at, "PostalTradeAddress");
    const vat = all(at, "SpecifiedTaxRegistration")
      .map((r) => child(r, "ID"))
      .find((id) => id?.attributes["schemeID"] === "VA");
    return {
      name: text(child(at, "Name")) ?? "",
      vatNumber: text(vat),
      address: joined(
        text(child(address, "LineOne")),
        text(child(address, "PostcodeCode")),
        text(child(address, "CityName")),
        text(child(address, "CountryID")),
      ),
    };
  };
  const dayAt = (at: XmlElement | undefined): string | null => day(text(child(at, "DateTimeString")));
  return {
    syntax: "CII",
    isCredit: credits.has(text(child(head, "TypeCode")) ?? ""),
    number: text(child(head, "ID")) ?? "",
    date: dayAt(child(head, "IssueDateTime")),
    dueDate:
      all(settlement, "SpecifiedTradePaymentTerms")
        .map((t) => dayAt(child(t, "DueDateDateTime")))
        .find((d) => d !== null) ?? null,
    deliveryDate:
      dayAt(down(delivery, "ActualDeliverySupplyChainEvent", "OccurrenceDateTime")) ??
      dayAt(down(settlement, "BillingSpecifiedPeriod", "StartDateTime")),
    deliveryUntil: down(delivery, "ActualDeliverySupplyChainEvent", "OccurrenceDateTime")
      ? null
      : dayAt(down(settlement, "BillingSpecifiedPeriod", "EndDateTime")),
    currency: text(child(settlement, "InvoiceCurrencyCode")),
    seller: party("SellerTradeParty"),
    buyer: party("BuyerTradeParty"),
    buyerReference: text(child(agreement, "BuyerReference")),
    orderReference:
      text(down(agreement, "BuyerOrderReferencedDocument", "IssuerAssignedID")) ??
      text(down(agreement, "BuyerOrderReferencedDocument", "ID")),
    sellerReference: text(down(agreement, "SellerOrderReferencedDocument", "IssuerAssignedID")),
    customerNumber: text(down(agreement, "BuyerTradeParty", "ID")),
    ibans: all(settlement, "SpecifiedTradeSettlementPaymentMeans").flatMap(
      (m) => text(down(m, "PayeePartyCreditorFinancialAccount", "IBANID")) ?? [],
    ),
    net: amount(child(sums, "TaxBasisTotalAmount")),
    tax: amount(child(sums, "TaxTotalAmount")),
    total: amount(child(sums, "GrandTotalAmount")),
    payable: amount(child(sums, "DuePayableAmount")),
    taxes: all(settlement, "ApplicableTradeTax").map((t) => ({
      rate: amount(child(t, "RateApplicablePercent")) ?? amount(child(t, "ApplicablePercent")),
      base: amount(child(t, "BasisAmount")),
      amount: amount(child(t, "CalculatedAmount")),
    })),
    lines: all(deal, "IncludedSupplyChainTradeLineItem")
      .slice(0, LINES_MAX)
      .map((l) => {
        const price = child(l, "SpecifiedLineTradeAgreement") ?? child(l, "SpecifiedSupplyChainTradeAgreement");
        const sent = child(l, "SpecifiedLineTradeDelivery") ?? child(l, "SpecifiedSupplyChainTradeDelivery");
        const paid = child(l, "SpecifiedLineTradeSettlement") ?? child(l, "SpecifiedSupplyChainTradeSettlement");
        return {
          id: text(down(l, "AssociatedDocumentLineDocument", "LineID")) ?? "",
          text: text(down(l, "SpecifiedTradeProduct", "Name")) ?? "",
          quantity: amount(child(sent, "BilledQuantity")),
          unit: child(sent, "BilledQuantity")?.attributes["unitCode"] ?? null,
          price: amount(down(price, "NetPriceProductTradePrice", "ChargeAmount")),
          amount:
            amount(down(paid, "SpecifiedTradeSettlementLineMonetarySummation", "LineTotalAmount")) ??
            amount(down(paid, "SpecifiedTradeSettlementMonetarySummation", "LineTotalAmount")),
          rate: amount(down(paid, "ApplicableTradeTax", "RateApplicablePercent")),
        };
      }),
    note: text(down(head, "IncludedNote", "Content")),
  };
}

/** How sure what an e-invoice says is: it says it itself. */
const EXACT = 0.999;

/** The readings of an e-invoice. They stand on no page; `text` is what the file says. */
export function readingsOfEInvoice(invoice: EInvoice): readonly Reading[] {
  const readings: Reading[] = [];
  const put = (field: ReadingField, value: string | null, shown = value): void => {
    if (value !== null && value !== "")
      readings.push({
        field,
        value,
        certainty: EXACT,
        page: null,
        box: null,
        text: shown ?? value,
        label: null,
        others: [],
        from: "structured",
      });
  };
  const money = (value: string | null): string | null => (value === null ? null : Number(value).toFixed(2));
  put("documentNumber", invoice.number);
  put("documentDate", invoice.date);
  put("dueDate", invoice.dueDate);
  put("deliveryDate", invoice.deliveryDate);
  // One that was kept before this was read does not say it.
  put("deliveryUntil", invoice.deliveryUntil ?? null);
  put("currency", invoice.currency);
  put("party", invoice.seller.name);
  put("buyer", invoice.buyer.name);
  put(
    "vatNumber",
    invoice.seller.vatNumber === null ? null : (parseVatNumber(invoice.seller.vatNumber) ?? invoice.seller.vatNumber),
    invoice.seller.vatNumber,
  );
  for (const iban of invoice.ibans) put("iban", iban.replace(/\s/g, "").toUpperCase(), iban);
  put("orderReference", invoice.orderReference);
  put("yourReference", invoice.sellerReference ?? invoice.buyerReference);
  put("customerNumber", invoice.customerNumber);
  put("net", money(invoice.net), invoice.net);
  put("tax", money(invoice.tax), invoice.tax);
  put("total", money(invoice.total ?? invoice.payable), invoice.total ?? invoice.payable);
  put("payable", money(invoice.payable), invoice.payable);
  for (const { rate, amount: tax } of invoice.taxes)
    if (rate !== null && tax !== null) put("taxAtRate", `${Number(rate).toFixed(2)} ${Number(tax).toFixed(2)}`, `${rate} % ${tax}`);
  return readings;
}

/** Its lines, as those of a document. */
export function rowsOfEInvoice(invoice: EInvoice): PaperRows {
  return {
    lines: invoice.lines.map(({ text: words, quantity, unit, price, amount: worth }) => ({
      text: words,
      quantity,
      unit: unit === null ? null : (unitNames.get(unit) ?? unit),
      price,
      amount: worth,
      page: null,
      box: null,
    })),
    invoices: [],
    isWhole: true,
  };
}
/** Units of UN/ECE recommendation 20 that people write otherwise. */
const unitNames: ReadonlyMap<string, string> = new Map([
  ["C62", "each"],
  ["EA", "each"],
  ["H87", "piece"],
  ["LTR", "l"],
  ["KGM", "kg"],
  ["TNE", "t"],
  ["HUR", "h"],
  ["DAY", "day"],
  ["MTR", "m"],
]);

/** What an e-invoice says as running text, for search and for finding its record. */
export function textOfEInvoice(invoice: EInvoice): string {
  const line = (label: string, value: string | null): string[] => (value === null || value === "" ? [] : [`${label}: ${value}`]);
  return [
    `${invoice.isCredit ? "Credit note" : "Invoice"} ${invoice.number}`,
    ...line("Seller", joined(invoice.seller.name, invoice.seller.address || null)),
    ...line("VAT number", invoice.seller.vatNumber),
    ...line("Buyer", joined(invoice.buyer.name, invoice.buyer.address || null)),
    ...line("Invoice date", invoice.date),
    ...line("Due date", invoice.dueDate),
    ...line("Delivered", !invoice.deliveryUntil ? invoice.deliveryDate : `${invoice.deliveryDate ?? ""} to ${invoice.deliveryUntil}`),
    ...line("Your order", invoice.orderReference),
    ...line("Our reference", invoice.sellerReference),
    ...line("Your reference", invoice.buyerReference),
    ...line("Customer no", invoice.customerNumber),
    ...invoice.lines.map((l) => [l.text, l.quantity, l.unit, l.price, l.amount].filter((p) => p !== null && p !== "").join("  ")),
    ...line("Net", invoice.net),
    ...line("VAT", invoice.tax),
    ...line("Total", joined(invoice.total, invoice.currency)),
    ...invoice.ibans.map((i) => `IBAN: ${i}`),
    ...line("Note", invoice.note),
  ].join("\n");
}

/** Readings of a page and of the e-invoice it carries, put together: where they differ both are shown and neither is sure. */
export function withStructured(
  page: readonly Reading[],
  structured: readonly Reading[],
): { readonly readings: readonly Reading[]; readonly differing: readonly { readonly field: ReadingField; readonly detail: string }[] } {
  const differing: { field: ReadingField; detail: string }[] = [];
  const several = new Set<ReadingField>(["orderReference", "iban", "vatNumber", "party", "yourReference", "customerNumber", "taxAtRate"]);
  const told = new Set(structured.map((r) => r.field));
  const readings = structured.map((exact): Reading => {
    const same = page.filter((r) => r.field === exact.field);
    const agreeing = same.find((r) => fold(r.value) === fold(exact.value));
    if (agreeing) return { ...exact, page: agreeing.page, box: agreeing.box, text: agreeing.text };
    const other = same[0];
    if (!other || several.has(exact.field) || other.certainty < 0.7) return exact;
    differing.push({ field: exact.field, detail: `${exact.value} ≠ ${other.text}` });
    return {
      ...exact,
      certainty: 0.6,
      others: [{ value: other.value, certainty: 0.4, page: other.page, box: other.box, text: other.text }],
    };
  });
  return { readings: [...readings, ...page.filter((r) => !told.has(r.field))], differing };
}

const fold = (value: string): string => value.toLowerCase().replace(/[\s./-]/g, "");
