import { readEInvoice, readingsOfEInvoice, textOfEInvoice, withStructured, type XmlElement } from "./e-invoice.ts";
import type { Reading } from "./reading.ts";

/** An element from a small notation: name, then text or children. */
const e = (name: string, inner: string | readonly XmlElement[] = "", attributes: Readonly<Record<string, string>> = {}): XmlElement =>
  typeof inner === "string" ? { name, attributes, text: inner, children: [] } : { name, attributes, text: "", children: inner };

const ubl = e("Invoice", [
  e("ID", "77-3108"),
  e("IssueDate", "2026-11-18"),
  e("DueDate", "2026-12-18"),
  e("InvoiceTypeCode", "380"),
  e("DocumentCurrencyCode", "GBP"),
  e("OrderReference", [e("ID", "PO-6127")]),
  e("AccountingSupplierParty", [
    e("Party", [
      e("PartyTaxScheme", [e("CompanyID", "GB951945396")]),
      e("PartyName", [e("Name", "Tarrin Bunkers")]),
      e("PartyLegalEntity", [e("RegistrationName", "Tarrin Marine Fuels")]),
    ]),
  ]),
  e("AccountingCustomerParty", [e("Party", [e("PartyLegalEntity", [e("RegistrationName", "Merrowick Ferries Ltd")])])]),
  e("PaymentMeans", [e("PayeeFinancialAccount", [e("ID", "GB80 MRWK 0000 0000 4502 53")])]),
  e("TaxTotal", [e("TaxAmount", "972.50")]),
  e("LegalMonetaryTotal", [e("TaxExclusiveAmount", "4862.50"), e("TaxInclusiveAmount", "5835.00"), e("PayableAmount", "4835.00")]),
  e("InvoiceLine", [
    e("ID", "1"),
    e("InvoicedQuantity", "6400", { unitCode: "LTR" }),
    e("LineExtensionAmount", "4556.80"),
    e("Item", [e("Name", "Marine gas oil")]),
    e("Price", [e("PriceAmount", "0.7120")]),
  ]),
]);

describe("An e-invoice", () => {
  test("in UBL is read exactly, lines included", () => {
    const invoice = readEInvoice(ubl);
    expect(invoice).toMatchObject({ syntax: "UBL", isCredit: false, number: "77-3108", orderReference: "PO-6127", total: "5835.00" });
    expect(invoice?.lines).toEqual([
      { id: "1", text: "Marine gas oil", quantity: "6400", unit: "LTR", price: "0.7120", amount: "4556.80", rate: null },
    ]);
    const readings = Object.fromEntries((invoice ? readingsOfEInvoice(invoice) : []).map((r) => [r.field, r.value]));
    expect(readings).toEqual({
      documentNumber: "77-3108",
      documentDate: "2026-11-18",
      dueDate: "2026-12-18",
      currency: "GBP",
      // The legal name, not the one it trades under; what is left to pay is not the total.
      party: "Tarrin Marine Fuels",
      buyer: "Merrowick Ferries Ltd",
      payable: "4835.00",
      vatNumber: "GB951945396",
      iban: "GB80MRWK00000000450253",
      orderReference: "PO-6127",
      net: "4862.50",
      tax: "972.50",
      total: "5835.00",
    });
    expect(invoice && textOfEInvoice(invoice)).toContain("Your order: PO-6127");
  });
  test("in CII is read too, a credit as a credit", () => {
    const day = (d: string) => [e("DateTimeString", d, { format: "102" })];
    const cii = e("CrossIndustryInvoice", [
      e("ExchangedDocument", [e("ID", "CN-118"), e("TypeCode", "381"), e("IssueDateTime", day("20261118"))]),
      e("SupplyChainTradeTransaction", [
        e("ApplicableHeaderTradeAgreement", [e("BuyerOrderReferencedDocument", [e("IssuerAssignedID", "PO-6127")])]),
        e("ApplicableHeaderTradeSettlement", [
          e("InvoiceCurrencyCode", "EUR"),
          e("SpecifiedTradeSettlementHeaderMonetarySummation", [
            e("TaxBasisTotalAmount", "100"),
            e("TaxTotalAmount", "19"),
            e("GrandTotalAmount", "119"),
          ]),
        ]),
      ]),
    ]);
    expect(readEInvoice(cii)).toMatchObject({
      syntax: "CII",
      isCredit: true,
      number: "CN-118",
      date: "2026-11-18",
      orderReference: "PO-6127",
      total: "119",
    });
  });
  test("that is none is none, and malformed values are left out", () => {
    expect(readEInvoice(e("html", [e("ID", "1")]))).toBeNull();
    const odd = readEInvoice(
      e("Invoice", [e("ID", "1"), e("IssueDate", "soon"), e("LegalMonetaryTotal", [e("TaxInclusiveAmount", "lots")])]),
    );
    expect(odd).toMatchObject({ date: null, total: null });
  });
});

describe("Where the page and the e-invoice it carries", () => {
  const onPage = (value: string): Reading => ({
    field: "total",
    value,
    certainty: 0.99,
    page: 1,
    box: [1, 2, 3, 4],
    text: value,
    label: "Total",
    others: [],
    from: "page",
  });
  const exact: Reading = { ...onPage("5835.00"), certainty: 0.999, page: null, box: null, from: "structured" };
  test("agree, the reading is exact and points at the page", () =>
    expect(withStructured([onPage("5835.00")], [exact]).readings).toMatchObject([{ value: "5835.00", certainty: 0.999, page: 1 }]));
  test("differ, both are shown and neither is sure", () => {
    const put = withStructured([onPage("6000.00")], [exact]);
    expect(put.readings).toMatchObject([{ value: "5835.00", certainty: 0.6, others: [{ value: "6000.00", page: 1 }] }]);
    expect(put.differing).toEqual([{ field: "total", detail: "5835.00 ≠ 6000.00" }]);
  });
});
