import { linesOfText, type ReadPage } from "../reading/page-lines.ts";
import { readPaper } from "../reading/read-paper.ts";
import { context, pageOf } from "../reading/test-page.ts";
import { nameOf, referencesOf } from "../records/record-references.ts";
import { foldText } from "../shared/fold-text.ts";
import { startingWeights } from "./match-weights.ts";
import { isNear, nearbyReferences } from "./near-references.ts";
import { probePaper } from "./probe-paper.ts";
import { verdictOf, wordsOfClash, wordsOfReason } from "./reason-words.ts";
import type { MatchHit, MatchPaper, MatchRecord } from "./match-types.ts";
import { suggestRecords, SURE_FROM } from "./suggest-records.ts";

const blank = {
  status: "open",
  date: "2026-11-10",
  amount: null,
  currency: "GBP",
  parentId: null,
  chainId: null,
  isStanding: false,
} as const;
const account = (id: number, key: string, title: string, fields: Record<string, string> = {}, company = "MF"): MatchRecord => ({
  ...blank,
  id,
  company,
  type: "supplierAccount",
  key,
  title,
  isStanding: true,
  status: "active",
  date: null,
  fields: { name: title, ...fields },
});
const order = (id: number, key: string, parentId: number, more: Partial<MatchRecord> = {}): MatchRecord => ({
  ...blank,
  id,
  company: "MF",
  type: "purchaseOrder",
  key,
  title: `Order ${key}`,
  parentId,
  amount: "4862.50",
  fields: { net: "4862.50", total: "5835.00", vessel: "MV Pale Heron" },
  ...more,
});
const tarrin = account(1, "S-2004", "Tarrin Marine Fuels", { iban: "GB80MRWK00000000450253", email: "accounts@tarrin-fuels.example" });
const brae = account(2, "S-2010", "Brae & Holm", { iban: "GB64MRWK00000002754291" });
const records = [tarrin, brae, order(3, "PO-6127", 1), order(4, "PO-6130", 1), order(5, "PO-6172", 2)];

/** What the server would load: every record that something on the document names. */
function hitsFor(pages: readonly ReadPage[], all: readonly MatchRecord[], names: Parameters<typeof probePaper>[1]): readonly MatchHit[] {
  const probes = new Set(probePaper(pages, names).map((p) => `${p.kind} ${p.reference}`));
  return all.flatMap((r) =>
    referencesOf(r)
      .filter((f) => probes.has(`${f.kind} ${f.reference}`))
      .map((f) => ({ recordId: r.id, ...f })),
  );
}

function suggest(
  pages: readonly ReadPage[],
  more: Partial<MatchPaper> = {},
  all: readonly MatchRecord[] = records,
  names = { fileName: "a.pdf", subject: null as string | null, sender: null as string | null },
) {
  const paper: MatchPaper = {
    probes: probePaper(pages, names),
    readings: readPaper(pages, context).readings,
    types: [{ type: "supplierInvoice", certainty: 0.95, usualFor: ["purchaseOrder", "supplierInvoice"] }],
    company: "MF",
    addressed: null,
    receivedOn: "2026-11-20",
    isSeveral: false,
    doubles: [],
    folded: foldText(pages.flatMap((p) => p.lines.flat().map((l) => l.text)).join(" ")),
    saidId: null,
    codes: [],
    ...more,
  };
  return suggestRecords(paper, all, hitsFor(pages, all, names), startingWeights);
}

const invoice = (over: { order?: string; iban?: string; total?: string; name?: string } = {}): ReadPage =>
  pageOf([
    [56, 50, over.name ?? "Tarrin Marine Fuels"],
    [430, 80, "Invoice No. 77-3108"],
    ...(over.order === "" ? [] : ([[56, 160, `Your order: ${over.order ?? "PO-6127"}`]] as const)),
    [56, 180, "Vessel: MV Pale Heron"],
    [400, 332, "Total"],
    [480, 332, `GBP ${over.total ?? "5,835.00"}`],
    [56, 780, `IBAN ${over.iban ?? "GB80 MRWK 0000 0000 4502 53"}`],
  ]);

describe("The record of an invoice", () => {
  test("is the order it names, surely, with reasons that stand on the page", () => {
    const [best] = suggest([invoice()]).suggestions;
    expect(best).toMatchObject({ recordId: 3, clashes: [] });
    expect(verdictOf(best, SURE_FROM)).toBe("sure");
    const reasons = best?.reasons.map(wordsOfReason).filter((w) => w !== null);
    expect(reasons).toEqual(expect.arrayContaining(["order number", "same IBAN", "total matches", "names MV Pale Heron"]));
    expect(best?.reasons.find((r) => r.kind === "orderNamed")).toMatchObject({ page: 1, text: "PO-6127" });
  });
  test.each(["PO 6127", "po6127", "6127", "P0-6l27"])("is found in another spelling: %s", (spelling) =>
    expect(suggest([invoice({ order: spelling })]).suggestions[0]?.recordId).toBe(3),
  );
  test("is found by its supplier and amount when no order is named", () => {
    const [best] = suggest([invoice({ order: "" })], {}, [
      tarrin,
      brae,
      order(3, "PO-6127", 1),
      order(4, "PO-6130", 1, { amount: "100.00", fields: { total: "120.00" } }),
    ]).suggestions;
    expect(best?.recordId).toBe(3);
  });
  test("is not sure between two that fit alike, and says which", () => {
    const same = [tarrin, order(3, "PO-6127", 1), order(4, "PO-6130", 1)];
    const { suggestions } = suggest([invoice({ order: "" })], {}, same);
    expect(suggestions[0]?.clashes.map((c) => c.code)).toContain("alike");
    expect(verdictOf(suggestions[0], SURE_FROM)).toBe("alike");
  });
  test("is never sure when the order is another supplier's", () => {
    const [best] = suggest([invoice({ order: "PO-6172" })]).suggestions;
    if (best?.recordId === 5) expect(best.clashes.map((c) => c.code)).toContain("other-sender");
    expect(verdictOf(best, SURE_FROM)).not.toBe("sure");
  });
  test("is never sure when the money goes to another bank account", () => {
    const [best] = suggest([invoice({ iban: "GB47 MRWK 0000 0001 3928 14" })]).suggestions;
    expect(best?.recordId).toBe(3);
    expect(best?.clashes).toEqual([{ code: "iban-differs", detail: "GB47MRWK00000001392814" }]);
    expect(verdictOf(best, SURE_FROM)).toBe("warning");
    expect(wordsOfClash({ code: "iban-differs", detail: "GB47" })).toContain("GB47");
  });
  test("is never sure when the amount is far off, the order closed, or it is several documents", () => {
    expect(verdictOf(suggest([invoice({ total: "58,350.00" })]).suggestions[0], SURE_FROM)).not.toBe("sure");
    const closed = records.map((r) => (r.id === 3 ? { ...r, status: "closed" } : r));
    expect(suggest([invoice()], {}, closed).suggestions[0]?.clashes.map((c) => c.code)).toContain("closed");
    expect(suggest([invoice()], { doubles: ["AC-000007"] }).suggestions[0]?.clashes).toContainEqual({
      code: "double",
      detail: "AC-000007",
    });
    expect(suggest([invoice()], { isSeveral: true }).suggestions[0]?.clashes.map((c) => c.code)).toContain("several-papers");
  });
  test("addressed to the other company is not sure", () => {
    const place = {
      text: "Merrowick Quay Services Ltd",
      page: 1,
      box: [56, 100, 100, 10] as const,
      where: "page" as const,
      label: null,
      depth: 0.1,
    };
    expect(suggest([invoice()], { addressed: { company: "QS", place } }).suggestions[0]?.clashes.map((c) => c.code)).toContain(
      "other-company",
    );
  });
  test("of a stranger is none of ours", () => {
    const paper = pageOf([
      [56, 50, "Quendal Ropeworks"],
      [430, 80, "Invoice No. 4410"],
      [480, 332, "GBP 77.00"],
    ]);
    const answer = suggest([paper]);
    expect(answer.suggestions[0]?.certainty ?? 0).toBeLessThan(0.3);
    expect(answer.none).toBeGreaterThan(0.7);
  });
  test("is what was said on the way in, and what a barcode says", () => {
    expect(suggest([linesOfText("nothing")], { saidId: 4 }).suggestions[0]).toMatchObject({
      recordId: 4,
      reasons: expect.arrayContaining([expect.objectContaining({ kind: "said" })]) as unknown,
    });
    const place = { text: "B-1", page: 1, box: [0, 0, 10, 10] as const, where: "code" as const, label: null, depth: 0 };
    expect(suggest([linesOfText("nothing")], { codes: [{ recordId: 4, place }] }).suggestions[0]?.recordId).toBe(4);
  });
});

test("a statement belongs to the account that it is from", () => {
  const page = pageOf([
    [56, 50, "Brae & Holm Ltd"],
    [56, 80, "Statement"],
    [56, 780, "IBAN GB64 MRWK 0000 0002 7542 91"],
  ]);
  const [best] = suggest([page], { types: [{ type: "supplierStatement", certainty: 0.9, usualFor: ["supplierAccount"] }] }).suggestions;
  expect(best?.recordId).toBe(2);
});

describe("References", () => {
  test("of a record are those by which documents name it", () => {
    expect(referencesOf({ key: "PO-6127", title: "Bunkering", isStanding: false, fields: { yourReference: "Q/88" } })).toEqual([
      { kind: "key", reference: "po6127" },
      { kind: "shape", reference: "p06127" },
      { kind: "digits", reference: "6127" },
      { kind: "yourReference", reference: "q88" },
    ]);
  });
  test("of an account are its identifiers and its name without its form", () => {
    expect(nameOf("Brae & Holm Ltd.")).toBe(nameOf("BRAE AND HOLM"));
    expect(referencesOf({ ...tarrin, fields: tarrin.fields }).map((r) => r.kind)).toEqual([
      "key",
      "shape",
      "digits",
      "iban",
      "mail",
      "domain",
      "name",
    ]);
  });
  test.each([
    ["po6127", "po6172", true],
    ["po6127", "po627", true],
    ["po6127", "po6128", true],
    ["po6127", "po6218", false],
    ["po6127", "po16727", false],
  ])("%s and %s are one slip apart: %s", (a, b, near) => expect(isNear(a, b)).toBe(near));
  test("nearly a key is found among the few of one account", () =>
    expect([...nearbyReferences(["P0 6172"], ["PO-6127", "PO-9000"])]).toEqual([["PO-6127", "p06172"]]));
});

describe("a posted invoice and the order it follows from", () => {
  const chained = records.map((r) => (r.id === 3 ? { ...r, chainId: 3 } : r));
  const posted: MatchRecord = {
    ...order(3, "PO-6127", 1),
    id: 90,
    type: "supplierInvoice",
    key: "SI-8801",
    title: "Tarrin Marine Fuels 77-3108",
    status: "posted",
    chainId: 3,
    fields: { documentNumber: "77-3108", orderNumber: "PO-6127", total: "5835.00" },
  };
  test("are no rivals: the document is the posted one, with what speaks for both", () => {
    const found = suggest([invoice()], {}, [...chained, posted]);
    expect(found.suggestions[0]).toMatchObject({ recordId: 90 });
    expect(found.suggestions[0]?.certainty).toBeGreaterThanOrEqual(SURE_FROM);
    expect(found.suggestions[0]?.clashes).toEqual([]);
  });
  test("of another number stays behind its order", () => {
    const other = { ...posted, fields: { ...posted.fields, documentNumber: "77-9999" } };
    expect(suggest([invoice()], {}, [...chained, other]).suggestions[0]?.recordId).toBe(3);
  });
});

test("a document that lists invoices is about their account, whatever one of them comes to", () => {
  const found = suggest([invoice({ order: "" })], {
    listsInvoices: true,
    types: [{ type: "supplierStatement", certainty: 0.6, usualFor: ["supplierAccount"] }],
  });
  expect(records.find((r) => r.id === found.suggestions[0]?.recordId)?.type).toBe("supplierAccount");
  expect(found.suggestions.flatMap((s) => s.reasons).some((r) => r.kind === "totalFits")).toBe(false);
});

test("a mail that answers one that is filed speaks for where that was filed", () => {
  const found = suggest([invoice({ order: "", iban: "", name: "Somebody" })], { thread: [3] });
  expect(found.suggestions[0]).toMatchObject({ recordId: 3 });
  expect(found.suggestions[0]?.reasons.map((r) => r.kind)).toContain("thread");
});
