import { emptyModel, judgeType, learnTypes, tellingWords } from "./judge-type.ts";
import { pageOf } from "./test-page.ts";

const types = ["supplierInvoice", "salesInvoice", "deliveryNote", "certificate", "batchCertificate", "mail"].map((key) => ({
  key,
  label: key.replace(/([A-Z])/g, " $1").toLowerCase(),
}));
const about = { words: [] as readonly string[], subject: "", fileName: "a.pdf", isMail: false, isOurs: null };

describe("The type of a paper", () => {
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
  test("is nothing sure where nothing speaks for any", () =>
    expect(judgeType([pageOf([[56, 60, "Lorem"]])], about, types, emptyModel)[0]?.certainty ?? 0).toBeLessThan(0.3));
});
