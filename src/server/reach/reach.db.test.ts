import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { parseDocumentCode } from "#core/shared/brand.ts";
import { countChildDocumentDifferences, refreshAllChildDocuments } from "../clips/refresh-child-documents.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import { changeDocument, type DocumentChange } from "../documents/change-document.ts";
import { fileAway } from "../documents/file-away.ts";
import { loadDocument } from "../documents/load-document.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { listRecordDocuments, loadRecordPage } from "../records/load-record-page.ts";
import { loadReachSettings, saveReachSettings } from "../settings/load-settings.ts";
import { listLines } from "../timeline/list-lines.ts";
import { previewReach } from "./reach.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let light: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  clerk = await actorByMail("tam.corrigall@merrowick.example");
  light = await actorByMail("pell.ashby@merrowick.example");
});
afterAll(() => world.end());

let number = 70000;
/** An account with some bookings beneath it, each with an invoice after it. */
async function family(bookings = 2): Promise<{ account: string; bookings: string[]; invoices: string[] }> {
  const account = `C-${++number}`;
  await putRecord(admin, "MF", "customerAccount", account, { title: `Account ${account}` });
  const made = { account, bookings: [] as string[], invoices: [] as string[] };
  for (let i = 0; i < bookings; i++) {
    const booking = `B-${++number}`;
    const parent = { type: "customerAccount", key: account };
    await putRecord(admin, "MF", "freightBooking", booking, { title: "Timber", parent, fields: { sailingDate: "2026-11-18" } });
    await putRecord(admin, "MF", "salesInvoice", `S-${number}`, {
      title: "Freight",
      parent,
      follows: [{ type: "freightBooking", key: booking }],
    });
    made.bookings.push(booking);
    made.invoices.push(`S-${number}`);
  }
  return made;
}
const clipOn = (type: string, key: string, reach?: string[]) => ({ company: "MF", type, key, ...(reach ? { reach } : {}) });
const file = async (documentType: string, clip: ReturnType<typeof clipOn>, who = admin) =>
  fileText(who, `${documentType} ${++number}.txt`, `${documentType} ${number}`, { documentType, clips: [clip], properties: {} });
const papers = async (type: string, key: string, who = admin): Promise<string[]> => {
  const row = await findVisibleRecord(who, type, key, "MF");
  if (!row) throw new Error(`no ${key}`);
  return (await listRecordDocuments(who, row, "own", { limit: 100, before: null })).items.map((d) => `${d.code} ${d.from?.key ?? "own"}`);
};
const change = (code: string, what: Partial<DocumentChange>) => {
  const parsed = parseDocumentCode(code);
  if (!parsed) throw new Error(code);
  return changeDocument(admin, parsed, { dryRun: false, ...what });
};
const counts = async (type: string, key: string) => (await loadRecordPage(admin, type, key, "MF"))?.counts;
const differences = () => db().transaction(countChildDocumentDifferences);

describe("A clip with a reach", () => {
  test("on an account shows on records beneath it, of the chosen types only", async () => {
    const f = await family();
    const paper = await file("letter", clipOn("customerAccount", f.account, ["freightBooking"]));
    for (const b of f.bookings) expect(await papers("freightBooking", b)).toEqual([`${paper.code} ${f.account}`]);
    expect(await papers("salesInvoice", f.invoices[0] ?? "")).toEqual([]);
    expect(await counts("freightBooking", f.bookings[0] ?? "")).toMatchObject({ own: 0, reached: 1 });
    expect(await papers("customerAccount", f.account)).toEqual([`${paper.code} own`]);
    // Another account's bookings are another matter.
    const other = await family(1);
    expect(await papers("freightBooking", other.bookings[0] ?? "")).toEqual([]);
  });

  test("is not needed to look at what the account above has", async () => {
    const f = await family(1);
    const paper = await file("letter", clipOn("customerAccount", f.account, []));
    const row = await findVisibleRecord(admin, "freightBooking", f.bookings[0] ?? "", "MF");
    const parent = async (who: Actor) => (row ? (await listRecordDocuments(who, row, "parent", { limit: 10, before: null })).items : []);
    expect((await parent(admin)).map((d) => [d.code, d.from?.key])).toEqual([[paper.code, f.account]]);
    expect(await counts("freightBooking", f.bookings[0] ?? "")).toMatchObject({ own: 0, reached: 0, parent: 1 });
    expect(await parent(light)).toEqual([]);
    expect((await loadRecordPage(light, "freightBooking", f.bookings[0] ?? "", "MF"))?.counts.parent).toBe(0);
  });

  test("shows along the chain, and above through what is kept, which a fresh computation agrees with", async () => {
    const f = await family(1);
    const [booking = "", invoice = ""] = [f.bookings[0], f.invoices[0]];
    const paper = await file("letter", clipOn("freightBooking", booking, ["salesInvoice", "customerAccount"]));
    expect(await papers("salesInvoice", invoice)).toEqual([`${paper.code} ${booking}`]);
    expect(await papers("customerAccount", f.account)).toEqual([`${paper.code} ${booking}`]);
    expect(await differences()).toBe(0);
    must(await change(paper.code, { clips: [clipOn("freightBooking", booking, [])] }));
    expect(await papers("customerAccount", f.account)).toEqual([]);
    expect(await papers("salesInvoice", invoice)).toEqual([]);
    expect(await differences()).toBe(0);
    await db().execute("update beneath_document set reaches = true");
    expect(await differences()).toBeGreaterThan(0);
    await db().transaction(refreshAllChildDocuments);
    expect(await differences()).toBe(0);
  });

  test("shows on records that are made later, and follows one that is moved to another account", async () => {
    const [one, two] = [await family(1), await family(0)];
    const paper = await file("letter", clipOn("customerAccount", two.account, ["freightBooking"]));
    const booking = one.bookings[0] ?? "";
    expect(await papers("freightBooking", booking)).toEqual([]);
    await putRecord(admin, "MF", "freightBooking", booking, { title: "Timber", parent: { type: "customerAccount", key: two.account } });
    expect(await papers("freightBooking", booking)).toEqual([`${paper.code} ${two.account}`]);
    expect(await differences()).toBe(0);
  });

  test("gives nobody a right: who may not see the document where it is clipped does not see it here", async () => {
    const f = await family(1);
    await file("packingList", clipOn("customerAccount", f.account, ["freightBooking"]));
    expect(await papers("freightBooking", f.bookings[0] ?? "", light)).toEqual([]);
    expect((await loadRecordPage(light, "freightBooking", f.bookings[0] ?? "", "MF"))?.counts.reached).toBe(0);
    const asked = must(
      await previewReach(clerk, { documentType: "letter", clips: [clipOn("customerAccount", f.account, ["crewMember"])] }),
    );
    expect(asked.items[0]).toMatchObject({ total: 0, named: [] });
    expect(await previewReach(light, { documentType: "letter", clips: [clipOn("customerAccount", f.account)] })).toMatchObject({
      ok: false,
      refusal: { code: "unknown-record" },
    });
  });

  test("is the document type's unless somebody says otherwise, and a change leaves it as it is", async () => {
    const before = await loadReachSettings();
    must(await saveReachSettings(admin, { askAbove: 100, types: { letter: ["freightBooking"] } }));
    const f = await family(1);
    const usual = await file("letter", clipOn("customerAccount", f.account));
    const said = await file("letter", clipOn("customerAccount", f.account, []));
    expect(await papers("freightBooking", f.bookings[0] ?? "")).toEqual([`${usual.code} ${f.account}`]);
    must(await saveReachSettings(admin, before));
    must(await change(usual.code, { title: "Another title", clips: [clipOn("customerAccount", f.account)] }));
    const parsed = parseDocumentCode(usual.code);
    expect(parsed && (await loadDocument(admin, parsed))?.clips[0]?.reach).toEqual(["freightBooking"]);
    expect(await papers("freightBooking", f.bookings[0] ?? "")).not.toContain(said.code);
    expect(await saveReachSettings(admin, { askAbove: 1, types: { letter: ["noSuchType"] } })).toMatchObject({
      ok: false,
      refusal: { code: "unknown-type" },
    });
    expect(await saveReachSettings(clerk, before)).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
  });
});

describe("A clip that would show on many records", () => {
  test("is asked about with numbers and names, and filed only when somebody agrees", async () => {
    must(await saveReachSettings(admin, { askAbove: 2, types: {} }));
    const f = await family(3);
    const clip = clipOn("customerAccount", f.account, ["freightBooking"]);
    const arrival = await takeText(admin, "many.txt", "a letter to all");
    const filing = { documentType: "letter", clips: [clip], properties: {} };
    expect(await fileAway(admin, arrival, filing)).toMatchObject({
      ok: false,
      refusal: { code: "reaches-many", detail: `${f.account}: 3 freight bookings` },
    });
    const asked = must(await previewReach(admin, { documentType: "letter", clips: [clip] })).items[0];
    expect(asked).toMatchObject({ total: 3, isWide: true, isUsual: false, words: "3 freight bookings" });
    expect(asked?.named.map((n) => n.key).sort()).toEqual([...f.bookings].sort());
    expect(asked?.along.map((a) => a.type)).toEqual(["freightBooking", "salesInvoice"]);
    expect(await papers("freightBooking", f.bookings[0] ?? "")).toEqual([]);
    must(await fileAway(admin, arrival, { ...filing, showsOnMany: true }));
    expect(await papers("freightBooking", f.bookings[0] ?? "")).toHaveLength(1);
  });

  test("is asked about when it comes to reach further, not when it stays as it is or reaches less", async () => {
    must(await saveReachSettings(admin, { askAbove: 2, types: {} }));
    const f = await family(3);
    const paper = await file("letter", clipOn("customerAccount", f.account, []));
    const wide = clipOn("customerAccount", f.account, ["freightBooking"]);
    expect(await change(paper.code, { clips: [wide] })).toMatchObject({ ok: false, refusal: { code: "reaches-many" } });
    expect(await change(paper.code, { clips: [wide], dryRun: true })).toMatchObject({ ok: false, refusal: { code: "reaches-many" } });
    must(await change(paper.code, { clips: [wide], showsOnMany: true }));
    must(await change(paper.code, { clips: [wide], title: "Still as wide" }));
    must(await change(paper.code, { clips: [clipOn("customerAccount", f.account, [])] }));
    const row = await findVisibleRecord(admin, "customerAccount", f.account, "MF");
    const lines = (await listLines(admin, { recordId: row?.id ?? 0 })).map((l) => l.words);
    expect(lines.filter((l) => l.startsWith("also shows "))).toHaveLength(2);
  });
});

test("A note on a clip stands with it, stays through other changes, and is taken off by an empty one", async () => {
  const f = await family(1);
  const booking = f.bookings[0] ?? "";
  const paper = await file("letter", clipOn("freightBooking", booking));
  const noteOf = async () => {
    const row = await findVisibleRecord(admin, "freightBooking", booking, "MF");
    return row && (await listRecordDocuments(admin, row, "own", { limit: 10, before: null })).items[0]?.note;
  };
  expect(await noteOf()).toBeNull();
  must(await change(paper.code, { clips: [{ ...clipOn("freightBooking", booking), note: "second page is the one" }] }));
  expect(await noteOf()).toBe("second page is the one");
  must(await change(paper.code, { clips: [clipOn("freightBooking", booking)], title: "Letter" }));
  expect(await noteOf()).toBe("second page is the one");
  must(await change(paper.code, { clips: [{ ...clipOn("freightBooking", booking), note: "" }] }));
  expect(await noteOf()).toBeNull();
});
