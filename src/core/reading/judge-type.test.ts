import { emptyModel, judgeType, learnTypes, tellingWords } from "./judge-type.ts";
import { pageOf } from "./test-page.ts";

const types = ["supplierInvoice", "salesInvoice", "deliveryNote", "certificate", "batchCertificate", "mail"].map((key) => ({
  key,
  label: key.replace(/([A-Z])/g, " $1").toLowerCase(),
}));
const about = { words: [] as readonly string[], subject: "", fileName: "a.pdf", isMail: false, isOurs: null };

describe("The type of a document", () => {
  test.each([
    ["INVOICE", "supplierInvoice"],
    ["Rechnung", "supplierInvoice"],
    ["BON DE LIVRAISON", "deliveryNote"],
    ["Certificate", "certificate"],
  ])("is told by its heading: %s", (heading, type) => {
    const [first] = judgeType([pageOf([[56, 60, heading]])], about, types, emptyModel);
    expect(first?.type).toBe(type);
    expect(first?.words[0]).toMatchObject({ text: heading, page: 1 });
  });
  test("is ours when we sent it", () =>
    expect(judgeType([pageOf([[56, 60, "INVOICE"]])], { ...about, isOurs: true }, types, emptyModel)[0]?.type).toBe("salesInvoice"));
  test("is a mail when it is one, whatever it speaks of", () =>
    expect(judgeType([pageOf([[56, 60, "Invoice attached"]])], { ...about, isMail: true }, types, emptyModel)[0]?.type).toBe("mail"));
  test("is learnt where the heading says too little", () => {
    const paper = (text: string) => tellingWords(text, null, null);
    const model = learnTypes([
      ...Array.from({ length: 6 }, () => ({ type: "batchCertificate", words: paper("certificate batch stated flares expiry") })),
      ...Array.from({ length: 6 }, () => ({ type: "certificate", words: paper("certificate vessel survey class hull") })),
    ]);
    const judged = (text: string) =>
      judgeType([pageOf([[56, 60, "CERTIFICATE"]])], { ...about, words: paper(text) }, types, model)[0]?.type;
    expect(judged("certificate batch stated flares")).toBe("batchCertificate");
    expect(judged("certificate vessel hull survey")).toBe("certificate");
  });
  test.each([
    ["Avoir n° RE-2026-2478 du 23/10/26", "supplierCreditNote", "Facture n°"],
    ["AUFTRAGSBESTÄTIGUNG Nr. INV-2480 vom 28. Oktober 2026", "orderConfirmation", "Rechnung Nr."],
    ["STATEMENT A/1177/2026 dated 13-Oct-2026", "supplierStatement", "Invoice No."],
    ["Accusé de réception de commande n° INV-6695 du 04.11.2026", "orderConfirmation", "Désignation"],
  ])("is told by a heading that goes on with number and day: %s", (heading, type, column) => {
    const more = ["supplierCreditNote", "orderConfirmation", "supplierStatement"].map((key) => ({ key, label: key }));
    const page = pageOf([
      [56, 60, "Skarra Chandlers"],
      [56, 120, heading],
      [56, 300, column],
    ]);
    expect(judgeType([page], { ...about, isOurs: false }, [...types, ...more], emptyModel)[0]?.type).toBe(type);
  });
  test("is what it is headed, however many documents with its words were something else; those decide where no heading does", () => {
    const words = tellingWords("pallets crates berth quantity goods", "a@quay.example", "payables");
    const model = learnTypes([
      ...Array.from({ length: 40 }, () => ({ type: "deliveryNote", words })),
      ...Array.from({ length: 40 }, () => ({ type: "salesInvoice", words: tellingWords("freight sailing net total", null, "sales") })),
    ]);
    const judged = (heading: string) => judgeType([pageOf([[56, 60, heading]])], { ...about, words, isOurs: false }, types, model)[0]?.type;
    expect(judged("Invoice")).toBe("supplierInvoice");
    expect(judged("Quay Stores")).toBe("deliveryNote");
  });
  test("is nothing sure where nothing speaks for any", () =>
    expect(judgeType([pageOf([[56, 60, "Lorem"]])], about, types, emptyModel)[0]?.certainty ?? 0).toBeLessThan(0.3));
});
