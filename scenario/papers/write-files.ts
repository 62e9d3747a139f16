import ExcelJS from "exceljs";
import JSZip from "jszip";
import type { Line } from "../world.ts";
import { netOf } from "../world.ts";

/** A mail as it stands on disk (.eml), with its attachments. */
export function writeMail(mail: {
  readonly from: string;
  readonly to: string;
  readonly subject: string;
  readonly date: string;
  readonly text: string;
  readonly attachments: readonly { readonly name: string; readonly type: string; readonly bytes: Uint8Array }[];
}): Buffer {
  const boundary = "=_merrowick_boundary";
  const b64 = (bytes: Uint8Array): string =>
    Buffer.from(bytes)
      .toString("base64")
      .replace(/(.{76})/g, "$1\r\n");
  const head = [
    `From: ${mail.from}`,
    `To: ${mail.to}`,
    `Subject: ${mail.subject}`,
    `Date: ${new Date(mail.date).toUTCString()}`,
    `Message-ID: <${mail.subject.replace(/[^A-Za-z0-9]/g, "")}.${mail.date.slice(0, 10)}@merrowick.example>`,
    "MIME-Version: 1.0",
  ];
  if (mail.attachments.length === 0) return Buffer.from([...head, "Content-Type: text/plain; charset=utf-8", "", mail.text].join("\r\n"));
  const parts = mail.attachments.map(
    (a) =>
      `--${boundary}\r\nContent-Type: ${a.type}; name="${a.name}"\r\nContent-Disposition: attachment; filename="${a.name}"\r\nContent-Transfer-Encoding: base64\r\n\r\n${b64(a.bytes)}\r\n`,
  );
  return Buffer.from(
    [
      ...head,
      `Content-Type: multipart/mixed; boundary="${boundary}"`,
      "",
      `--${boundary}`,
      "Content-Type: text/plain; charset=utf-8",
      "",
      mail.text,
      "",
      `${parts.join("")}--${boundary}--`,
      "",
    ].join("\r\n"),
  );
}

const xml = (text: string): string => text.replace(/&/g, "&amp;").replace(/</g, "&lt;").replace(/>/g, "&gt;");
/** Files inside an office file carry a date; a fixed one keeps the bytes the same. */
const FIXED = new Date("2026-01-01T00:00:00Z");

/** A Word document of plain paragraphs. */
export async function writeDocx(paragraphs: readonly string[]): Promise<Buffer> {
  const zip = new JSZip();
  const put = (name: string, text: string): void => void zip.file(name, text, { date: FIXED });
  put(
    "[Content_Types].xml",
    '<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>',
  );
  put(
    "_rels/.rels",
    '<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>',
  );
  put(
    "word/document.xml",
    `<?xml version="1.0" encoding="UTF-8"?><w:document xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"><w:body>${paragraphs.map((p) => `<w:p><w:r><w:t xml:space="preserve">${xml(p)}</w:t></w:r></w:p>`).join("")}</w:body></w:document>`,
  );
  return zip.generateAsync({ type: "nodebuffer", compression: "DEFLATE" });
}

/** An Excel workbook with one sheet. */
export async function writeXlsx(sheet: string, rows: readonly (readonly (string | number)[])[]): Promise<Buffer> {
  const book = new ExcelJS.Workbook();
  book.created = FIXED;
  book.modified = FIXED;
  const page = book.addWorksheet(sheet);
  for (const row of rows) page.addRow([...row]);
  return Buffer.from(await book.xlsx.writeBuffer());
}

/** A CSV file as a bank sends it. */
export function writeCsv(rows: readonly (readonly string[])[]): Buffer {
  return Buffer.from(rows.map((r) => r.map((c) => (/[",;\n]/.test(c) ? `"${c.replaceAll('"', '""')}"` : c)).join(",")).join("\r\n"));
}

/** What an e-invoice says. */
export interface EInvoice {
  readonly number: string;
  readonly date: string;
  readonly dueDate: string;
  readonly order: string;
  readonly seller: { readonly name: string; readonly vatNumber: string; readonly iban: string };
  readonly buyer: string;
  readonly lines: readonly Line[];
  readonly money: { readonly net: string; readonly tax: string; readonly total: string; readonly currency: string };
}

const amount = (l: Line): string => (netOf([l]) / 100).toFixed(2);

/** An e-invoice in UBL 2.1. */
export function writeUbl(i: EInvoice): Buffer {
  const lines = i.lines
    .map(
      (l, n) =>
        `<cac:InvoiceLine><cbc:ID>${n + 1}</cbc:ID><cbc:InvoicedQuantity unitCode="C62">${l.quantity}</cbc:InvoicedQuantity><cbc:LineExtensionAmount currencyID="${i.money.currency}">${amount(l)}</cbc:LineExtensionAmount><cac:Item><cbc:Name>${xml(l.text)}</cbc:Name></cac:Item><cac:Price><cbc:PriceAmount currencyID="${i.money.currency}">${(l.price / 100).toFixed(4)}</cbc:PriceAmount></cac:Price></cac:InvoiceLine>`,
    )
    .join("\n");
  return Buffer.from(`<?xml version="1.0" encoding="UTF-8"?>
<Invoice xmlns="urn:oasis:names:specification:ubl:schema:xsd:Invoice-2" xmlns:cac="urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2" xmlns:cbc="urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2">
<cbc:CustomizationID>urn:cen.eu:en16931:2017</cbc:CustomizationID><cbc:ID>${xml(i.number)}</cbc:ID><cbc:IssueDate>${i.date}</cbc:IssueDate><cbc:DueDate>${i.dueDate}</cbc:DueDate><cbc:InvoiceTypeCode>380</cbc:InvoiceTypeCode><cbc:DocumentCurrencyCode>${i.money.currency}</cbc:DocumentCurrencyCode>
<cac:OrderReference><cbc:ID>${xml(i.order)}</cbc:ID></cac:OrderReference>
<cac:AccountingSupplierParty><cac:Party><cac:PartyTaxScheme><cbc:CompanyID>${i.seller.vatNumber}</cbc:CompanyID><cac:TaxScheme><cbc:ID>VAT</cbc:ID></cac:TaxScheme></cac:PartyTaxScheme><cac:PartyLegalEntity><cbc:RegistrationName>${xml(i.seller.name)}</cbc:RegistrationName></cac:PartyLegalEntity></cac:Party></cac:AccountingSupplierParty>
<cac:AccountingCustomerParty><cac:Party><cac:PartyLegalEntity><cbc:RegistrationName>${xml(i.buyer)}</cbc:RegistrationName></cac:PartyLegalEntity></cac:Party></cac:AccountingCustomerParty>
<cac:PaymentMeans><cbc:PaymentMeansCode>30</cbc:PaymentMeansCode><cac:PayeeFinancialAccount><cbc:ID>${i.seller.iban}</cbc:ID></cac:PayeeFinancialAccount></cac:PaymentMeans>
<cac:TaxTotal><cbc:TaxAmount currencyID="${i.money.currency}">${i.money.tax}</cbc:TaxAmount></cac:TaxTotal>
<cac:LegalMonetaryTotal><cbc:TaxExclusiveAmount currencyID="${i.money.currency}">${i.money.net}</cbc:TaxExclusiveAmount><cbc:TaxInclusiveAmount currencyID="${i.money.currency}">${i.money.total}</cbc:TaxInclusiveAmount><cbc:PayableAmount currencyID="${i.money.currency}">${i.money.total}</cbc:PayableAmount></cac:LegalMonetaryTotal>
${lines}
</Invoice>`);
}

/** An e-invoice in CII (D16B). */
export function writeCii(i: EInvoice): Buffer {
  const day = (d: string): string => `<udt:DateTimeString format="102">${d.replaceAll("-", "")}</udt:DateTimeString>`;
  const lines = i.lines
    .map(
      (l, n) =>
        `<ram:IncludedSupplyChainTradeLineItem><ram:AssociatedDocumentLineDocument><ram:LineID>${n + 1}</ram:LineID></ram:AssociatedDocumentLineDocument><ram:SpecifiedTradeProduct><ram:Name>${xml(l.text)}</ram:Name></ram:SpecifiedTradeProduct><ram:SpecifiedLineTradeAgreement><ram:NetPriceProductTradePrice><ram:ChargeAmount>${(l.price / 100).toFixed(4)}</ram:ChargeAmount></ram:NetPriceProductTradePrice></ram:SpecifiedLineTradeAgreement><ram:SpecifiedLineTradeDelivery><ram:BilledQuantity unitCode="C62">${l.quantity}</ram:BilledQuantity></ram:SpecifiedLineTradeDelivery><ram:SpecifiedLineTradeSettlement><ram:SpecifiedTradeSettlementLineMonetarySummation><ram:LineTotalAmount>${amount(l)}</ram:LineTotalAmount></ram:SpecifiedTradeSettlementLineMonetarySummation></ram:SpecifiedLineTradeSettlement></ram:IncludedSupplyChainTradeLineItem>`,
    )
    .join("\n");
  return Buffer.from(`<?xml version="1.0" encoding="UTF-8"?>
<rsm:CrossIndustryInvoice xmlns:rsm="urn:un:unece:uncefact:data:standard:CrossIndustryInvoice:100" xmlns:ram="urn:un:unece:uncefact:data:standard:ReusableAggregateBusinessInformationEntity:100" xmlns:udt="urn:un:unece:uncefact:data:standard:UnqualifiedDataType:100">
<rsm:ExchangedDocumentContext><ram:GuidelineSpecifiedDocumentContextParameter><ram:ID>urn:cen.eu:en16931:2017</ram:ID></ram:GuidelineSpecifiedDocumentContextParameter></rsm:ExchangedDocumentContext>
<rsm:ExchangedDocument><ram:ID>${xml(i.number)}</ram:ID><ram:TypeCode>380</ram:TypeCode><ram:IssueDateTime>${day(i.date)}</ram:IssueDateTime></rsm:ExchangedDocument>
<rsm:SupplyChainTradeTransaction>
${lines}
<ram:ApplicableHeaderTradeAgreement><ram:SellerTradeParty><ram:Name>${xml(i.seller.name)}</ram:Name><ram:SpecifiedTaxRegistration><ram:ID schemeID="VA">${i.seller.vatNumber}</ram:ID></ram:SpecifiedTaxRegistration></ram:SellerTradeParty><ram:BuyerTradeParty><ram:Name>${xml(i.buyer)}</ram:Name></ram:BuyerTradeParty><ram:BuyerOrderReferencedDocument><ram:IssuerAssignedID>${xml(i.order)}</ram:IssuerAssignedID></ram:BuyerOrderReferencedDocument></ram:ApplicableHeaderTradeAgreement>
<ram:ApplicableHeaderTradeDelivery/>
<ram:ApplicableHeaderTradeSettlement><ram:InvoiceCurrencyCode>${i.money.currency}</ram:InvoiceCurrencyCode><ram:SpecifiedTradeSettlementPaymentMeans><ram:TypeCode>30</ram:TypeCode><ram:PayeePartyCreditorFinancialAccount><ram:IBANID>${i.seller.iban}</ram:IBANID></ram:PayeePartyCreditorFinancialAccount></ram:SpecifiedTradeSettlementPaymentMeans><ram:SpecifiedTradePaymentTerms><ram:DueDateDateTime>${day(i.dueDate)}</ram:DueDateDateTime></ram:SpecifiedTradePaymentTerms><ram:SpecifiedTradeSettlementHeaderMonetarySummation><ram:TaxBasisTotalAmount>${i.money.net}</ram:TaxBasisTotalAmount><ram:TaxTotalAmount currencyID="${i.money.currency}">${i.money.tax}</ram:TaxTotalAmount><ram:GrandTotalAmount>${i.money.total}</ram:GrandTotalAmount><ram:DuePayableAmount>${i.money.total}</ram:DuePayableAmount></ram:SpecifiedTradeSettlementHeaderMonetarySummation></ram:ApplicableHeaderTradeSettlement>
</rsm:SupplyChainTradeTransaction>
</rsm:CrossIndustryInvoice>`);
}
