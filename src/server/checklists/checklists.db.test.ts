import { sql } from "drizzle-orm";
import { chance } from "#scenario/random.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { parseDocumentCode } from "#core/shared/brand.ts";
import { checkKept } from "../check/check-kept.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { fileText, makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import { changeDocument } from "../documents/change-document.ts";
import { unfile } from "../documents/unfile.ts";
import type { Actor } from "../people/load-actor.ts";
import { atTime } from "../ports/clock.ts";
import { listRecords } from "../records/list-records.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { loadRecordPage } from "../records/load-record-page.ts";
import { documentFilter } from "../access/filters.ts";
import { decideItem, type ItemAct } from "./decide-item.ts";
import { keepCompleteness } from "./keep-completeness.ts";
import { countMissing, listMissing, type MissingView } from "./list-missing.ts";
import { loadChecklist } from "./load-rules.ts";
import { recheckType, saveChecklist } from "./manage-rules.ts";
import { previewChecklist } from "./preview-rules.ts";
import { markLapsing, recheckAll, refreshAllMarked, refreshMarked } from "./refresh-completeness.ts";
import { listReminders, putAway, remind, setResponsible } from "./remind.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let crew: Actor;
let light: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  clerk = await actorByMail("tam.corrigall@merrowick.example");
  crew = await actorByMail("maren.holt@merrowick.example");
  light = await actorByMail("pell.ashby@merrowick.example");
  await putRecord(admin, "MF", "customerAccount", "C-1042", { title: "Orrin Shellfish", fields: { currency: "GBP" } });
});
afterAll(() => world.end());

let number = 0;
/** A chilled booking of an account, and its loading confirmation when that is wanted. */
async function booking(withLoading = false): Promise<string> {
  const key = `B-${30000 + ++number}`;
  const about = { title: `Chilled ${number}`, parent: { type: "customerAccount", key: "C-1042" } };
  await putRecord(admin, "MF", "freightBooking", key, {
    ...about,
    fields: { sailingDate: "2026-11-18", description: "3 chilled trailers" },
  });
  if (withLoading)
    await putRecord(admin, "MF", "loadingConfirmation", key.replace("B", "L"), {
      ...about,
      fields: { sailingDate: "2026-11-18" },
      follows: [{ type: "freightBooking", key }],
    });
  return key;
}
const states = async (type: string, key: string, who = admin): Promise<Record<string, string>> =>
  Object.fromEntries((await loadRecordPage(who, type, key, "MF"))?.checklist.map((i) => [i.key, i.state]) ?? []);
const file = (who: Actor, documentType: string, type: string, key: string, properties: Record<string, string> = {}) =>
  fileText(who, `${documentType} ${++number}.txt`, `${documentType} ${key} ${number}`, {
    documentType,
    clips: [{ type, key }],
    properties,
  });
const act = async (who: Actor, type: string, key: string, what: ItemAct) => {
  const row = await findVisibleRecord(who, type, key, "MF");
  if (!row) throw new Error(`no ${key}`);
  return decideItem(who, row, what);
};
const kept = async (key: string): Promise<Record<string, unknown> | undefined> =>
  (
    await db().execute<Record<string, unknown>>(
      sql`select c.* from completeness c join record r on r.id = c.record_id where r.key = ${key}`,
    )
  ).rows[0];
/** Promise 9: after what was marked is worked off, nothing differs from a fresh computation. */
const agrees = async (): Promise<void> => {
  await refreshAllMarked();
  expect((await checkKept({ repair: false })).find((c) => c.what === "record completeness")).toMatchObject({ differences: 0 });
};
const code = (text: string) => {
  const parsed = parseDocumentCode(text);
  if (!parsed) throw new Error(text);
  return parsed;
};

describe("A record's checklist", () => {
  test("follows what is clipped, accepted, taken off and changed, and what is kept follows it", async () => {
    const key = await booking(true);
    expect(await states("freightBooking", key)).toEqual({
      request: "outstanding",
      packingList: "outstanding",
      temperatureLog: "outstanding",
      loadingList: "outstanding",
    });
    await agrees();
    // A document of the loading confirmation counts along the chain, an unsigned one does not.
    const list = await file(clerk, "loadingList", "loadingConfirmation", key.replace("B", "L"), { signed: "no" });
    expect((await states("freightBooking", key))["loadingList"]).toBe("outstanding");
    must(await changeDocument(clerk, code(list.code), { properties: { signed: true }, dryRun: false }));
    expect((await states("freightBooking", key))["loadingList"]).toBe("complete");
    await agrees();
    // A log is received until somebody accepts it.
    const log = await file(clerk, "temperatureLog", "freightBooking", key);
    expect((await states("freightBooking", key))["temperatureLog"]).toBe("received");
    await agrees();
    expect(await kept(key)).toMatchObject({ in_hand: 1 << 2 });
    must(await act(clerk, "freightBooking", key, { act: "accept", item: "temperatureLog" }));
    must(await act(clerk, "freightBooking", key, { act: "accept", item: "temperatureLog" }));
    expect((await states("freightBooking", key))["temperatureLog"]).toBe("complete");
    expect(await kept(key)).toMatchObject({ in_hand: 0 });
    must(await unfile(clerk, code(log.code)));
    expect((await states("freightBooking", key))["temperatureLog"]).toBe("outstanding");
    await agrees();
    // A field that changes what applies.
    await putRecord(admin, "MF", "freightBooking", key, { title: "Casks", fields: { description: "4 whisky casks" } });
    expect(Object.keys(await states("freightBooking", key))).toContain("dangerousGoods");
    expect(Object.keys(await states("freightBooking", key))).not.toContain("temperatureLog");
    await agrees();
  });

  test("an item can be waived with a reason, and asked for again", async () => {
    const key = await booking();
    expect(
      (await act(clerk, "freightBooking", key, { act: "waive", item: "packingList", reason: "One trailer, seen on the quay" })).ok,
    ).toBe(true);
    const item = (await loadRecordPage(admin, "freightBooking", key, "MF"))?.checklist.find((i) => i.key === "packingList");
    expect(item).toMatchObject({ state: "waived", waived: { reason: "One trailer, seen on the quay", by: "Tam Corrigall" } });
    await agrees();
    must(await act(clerk, "freightBooking", key, { act: "ask", item: "packingList" }));
    expect((await states("freightBooking", key))["packingList"]).toBe("outstanding");
  });

  test("a document of another type can be tied to an item, and a document taken from it", async () => {
    const key = await booking();
    const mail = await file(clerk, "mail", "freightBooking", key);
    must(await act(clerk, "freightBooking", key, { act: "tie", item: "request", document: mail.code }));
    expect((await states("freightBooking", key))["request"]).toBe("complete");
    await agrees();
    must(await act(clerk, "freightBooking", key, { act: "untie", item: "request", document: mail.code }));
    expect((await states("freightBooking", key))["request"]).toBe("outstanding");
    const elsewhere = await file(clerk, "mail", "freightBooking", await booking());
    expect(await act(clerk, "freightBooking", key, { act: "tie", item: "request", document: elsewhere.code })).toMatchObject({
      refusal: { code: "not-found" },
    });
  });

  test("items can be added to one record by hand, at most a dozen, and taken off again", async () => {
    const key = await booking();
    const add = (label: string) => act(clerk, "freightBooking", key, { act: "add", label, documentTypes: ["letter"], dueOn: "2026-12-01" });
    expect(must(await add("The master's letter")).items.at(-1)).toMatchObject({
      key: "own0",
      label: "The master's letter",
      state: "outstanding",
      dueOn: "2026-12-01",
      isOwn: true,
    });
    await file(clerk, "letter", "freightBooking", key);
    expect((await states("freightBooking", key))["own0"]).toBe("received");
    await agrees();
    for (let i = 1; i < 12; i++) must(await add(`More ${i}`));
    expect(await add("One too many")).toMatchObject({ refusal: { code: "bad-input" } });
    must(await act(clerk, "freightBooking", key, { act: "remove", item: "own0" }));
    expect(Object.keys(await states("freightBooking", key))).not.toContain("own0");
    expect(await act(clerk, "freightBooking", key, { act: "remove", item: "request" })).toMatchObject({ refusal: { code: "bad-input" } });
    await agrees();
  });

  test("a record of a type without rules has a checklist of its own items only", async () => {
    await putRecord(admin, "MF", "journal", "J-1", { title: "Accrual" });
    expect(await kept("J-1")).toBeUndefined();
    must(await act(admin, "journal", "J-1", { act: "add", label: "Backing", documentTypes: ["journalSupport"], dueOn: null }));
    expect(await kept("J-1")).toMatchObject({ type: "journal", missing: 2 ** 40 });
    await agrees();
  });
});

describe("What lapses", () => {
  test("does so on its day though nobody touches it, and only those may accept whom the rule names", async () => {
    await putRecord(admin, "MF", "crewMember", "E-700", { title: "Runa Skarr" });
    const day = (text: string) => () => new Date(`${text}T12:00:00Z`);
    await atTime(day("2026-11-20"), async () => {
      await file(crew, "medicalCertificate", "crewMember", "E-700", { validUntil: "2026-12-15" });
      must(await act(crew, "crewMember", "E-700", { act: "accept", item: "medical" }));
      expect(await listed(crew, "expiring")).toContain("E-700");
      expect(await kept("E-700")).toMatchObject({ lapses_on: "2026-12-15", changes_on: "2026-12-16", lapsed: 0 });
      expect(await markLapsing()).toBe(0);
    });
    await atTime(day("2026-12-16"), async () => {
      expect(await markLapsing()).toBeGreaterThan(0);
      await refreshAllMarked();
      expect(await states("crewMember", "E-700", crew)).toMatchObject({ medical: "expired" });
      expect(await kept("E-700")).toMatchObject({ lapsed: 1, missing: 3, due_on: "2026-12-15" });
      expect(await listed(crew, "expired")).toContain("E-700");
      await agrees();
      await file(crew, "medicalCertificate", "crewMember", "E-700", { validUntil: "2028-12-15" });
      expect(await states("crewMember", "E-700", crew)).toMatchObject({ medical: "received" });
    });
  });

  test("a person whose roles the rule does not name cannot accept", async () => {
    await putRecord(admin, "MF", "bankReconciliation", "BR-1", { title: "October", fields: { documentDate: "2026-10-31" } });
    await file(admin, "reconciliationSheet", "bankReconciliation", "BR-1");
    const other: Actor = { ...admin, roles: ["Filing clerk"] };
    expect(await act(other, "bankReconciliation", "BR-1", { act: "accept", item: "sheet" })).toMatchObject({
      refusal: { code: "not-allowed" },
    });
    expect(
      (await act(await actorByMail("bram.ellery@merrowick.example"), "bankReconciliation", "BR-1", { act: "accept", item: "sheet" })).ok,
    ).toBe(true);
  });
});

const wish = (view: MissingView, over: Partial<Parameters<typeof listMissing>[1]> = {}) => ({
  view,
  company: "MF",
  limit: 100,
  offset: 0,
  ...over,
});
const listed = async (who: Actor, view: MissingView, over: Partial<Parameters<typeof listMissing>[1]> = {}): Promise<readonly string[]> =>
  (await listMissing(who, wish(view, over))).items.map((r) => r.key);

describe("The worklist", () => {
  test("lists what is missing by type, item, account and person, what is due first, page by page", async () => {
    const keys = [await booking(true), await booking(true), await booking(true)];
    await refreshAllMarked();
    const all = await listMissing(clerk, wish("missing", { type: "freightBooking" }));
    const dues = all.items.map((i) => i.items.map((x) => x.dueOn ?? "9").sort()[0] ?? "9");
    expect(dues).toEqual([...dues].sort());
    expect(all.items.map((i) => i.key)).toEqual(expect.arrayContaining(keys));
    const first = await listMissing(clerk, wish("missing", { type: "freightBooking", limit: 2 }));
    const second = await listMissing(clerk, wish("missing", { type: "freightBooking", limit: 2, offset: Number(first.next) }));
    expect([...first.items, ...second.items].map((i) => i.key)).toEqual(all.items.slice(0, 4).map((i) => i.key));
    await file(clerk, "packingList", "freightBooking", keys[0] ?? "");
    await refreshAllMarked();
    expect(await listed(clerk, "missing", { type: "freightBooking", item: "packingList" })).not.toContain(keys[0]);
    expect(await listed(clerk, "missing", { parent: "customerAccount:C-1042" })).toEqual(expect.arrayContaining(keys));
    expect(await listed(clerk, "missing", { q: keys[1] })).toEqual([keys[1]]);
    const counts = await countMissing(clerk, { type: "freightBooking", company: "MF" });
    expect(counts.types.find((t) => t.type === "freightBooking")?.missing).toBe(
      (await listed(clerk, "missing", { type: "freightBooking", limit: 200 })).length,
    );
    expect(counts.items.find((i) => i.key === "packingList")?.missing).toBe(
      (await listed(clerk, "missing", { type: "freightBooking", item: "packingList", limit: 200 })).length,
    );
    const table = await listRecords(
      clerk,
      { type: "freightBooking", q: keys[0], limit: 5, offset: 0 },
      await documentFilter(clerk, "see", sql`d.acl_id`),
    );
    expect(table.items[0]?.checklist).toEqual({ done: 1, of: 4, missing: 3 });
    const seen = await documentFilter(clerk, "see", sql`d.acl_id`);
    const complete = await listRecords(clerk, { type: "freightBooking", checklist: "complete", limit: 50, offset: 0 }, seen);
    expect(complete.items.map((r) => r.key)).not.toContain(keys[0]);
  });

  test("tells nobody of records, items or documents that their grants do not cover", async () => {
    await putRecord(admin, "MF", "crewMember", "E-701", { title: "Odd Fell" });
    await refreshAllMarked();
    expect(await listed(clerk, "missing", { type: "crewMember" })).toEqual([]);
    expect((await countMissing(clerk, { type: "crewMember" })).items).toEqual([]);
    // A light user sees bookings, but of their documents only some types.
    const key = await booking(true);
    expect(Object.keys(await states("freightBooking", key, light)).sort()).toEqual(["loadingList", "packingList", "temperatureLog"]);
    const rows = await listMissing(light, wish("missing", { q: key }));
    expect(rows.items.flatMap((r) => r.items.map((i) => i.key))).not.toContain("request");
    expect(await listed(light, "missing", { type: "freightBooking", item: "request" })).toEqual([]);
    expect(await act(light, "freightBooking", key, { act: "waive", item: "request", reason: "x" })).toMatchObject({
      refusal: { code: "not-found" },
    });
    expect(await act(light, "freightBooking", key, { act: "waive", item: "packingList", reason: "x" })).toMatchObject({
      refusal: { code: "not-allowed" },
    });
  });

  test("whoever answers for the account answers for what is beneath it, is reminded once, and puts it away", async () => {
    const key = await booking();
    const nessa = await actorByMail("nessa.quill@merrowick.example");
    must(await setResponsible(admin, { records: [{ company: "MF", type: "customerAccount", key: "C-1042" }], person: nessa.id }));
    await refreshAllMarked();
    expect(await listed(nessa, "missing", { responsible: nessa.id })).toContain(key);
    const records = [{ company: "MF", type: "freightBooking", key }];
    expect(must(await remind(clerk, { records, note: "Before the weekend" }))).toEqual({ reminded: 1, people: 1, nobody: [] });
    must(await remind(clerk, { records, note: "Please" }));
    const open = (await listReminders(nessa)).items;
    expect(open).toMatchObject([{ key, note: "Please", by: "Tam Corrigall" }]);
    expect((await listMissing(clerk, wish("missing", { q: key }))).items[0]?.remindedAt).not.toBeNull();
    must(await putAway(clerk, [open[0]?.id ?? 0]));
    expect((await listReminders(nessa)).items).toHaveLength(1);
    must(await putAway(nessa, [open[0]?.id ?? 0]));
    expect((await listReminders(nessa)).items).toEqual([]);
    await putRecord(admin, "MF", "damageClaim", "DC-1", { title: "Wet on arrival" });
    expect(must(await remind(clerk, { records: [{ company: "MF", type: "damageClaim", key: "DC-1" }], note: "" })).nobody).toEqual([
      "DC-1",
    ]);
    // Somebody who may not see the record cannot answer for it.
    expect(await setResponsible(admin, { records, person: crew.id })).toMatchObject({ refusal: { code: "bad-input" } });
    await agrees();
  });
});

describe("A changed checklist", () => {
  test("is looked at before it is saved, then all records are looked at anew, and a stale one is refused", async () => {
    const { version, rules } = await loadChecklist("freightBooking");
    const items = [...rules.items, { key: "customs", label: "Customs form", documentTypes: ["customsForm"] }];
    const preview = must(await previewChecklist(admin, "freightBooking", { items }));
    expect(preview.lookedAt).toBe(preview.records);
    expect(preview.items.find((i) => i.key === "customs")).toMatchObject({
      applies: { before: 0, after: preview.records },
      missing: { before: 0, after: preview.records },
    });
    // An administrator of another company is told of none of these records.
    const other: Actor = { ...admin, grants: admin.grants.filter((g) => g.company === "QS") };
    expect(must(await previewChecklist(other, "freightBooking", { items }))).toMatchObject({ records: 0, lookedAt: 0, examples: [] });
    const before = await kept("B-30001");
    const saved = must(await saveChecklist(admin, "freightBooking", { items }, version));
    expect(await saveChecklist(admin, "freightBooking", { items }, version)).toMatchObject({ refusal: { code: "stale" } });
    await recheckType(saved.job);
    await recheckType(saved.job);
    expect(Number((await kept("B-30001"))?.["applies"])).toBeGreaterThan(Number(before?.["applies"]));
    await agrees();
    // The old items kept their bits; one that is gone leaves nothing behind.
    const again = await loadChecklist("freightBooking");
    for (const item of rules.items) expect(again.rules.items.find((i) => i.key === item.key)?.bit).toBe(item.bit);
    await recheckType(must(await saveChecklist(admin, "freightBooking", { items: rules.items }, saved.version)).job);
    expect(await kept("B-30001")).toEqual(before);
    await agrees();
  });

  test("with mistakes is refused with their places, and only those with the right may change it", async () => {
    const wrong = {
      items: [
        { key: "a", label: "A", documentTypes: ["noSuch"] },
        {
          key: "a",
          label: "Again",
          documentTypes: ["letter"],
          due: { field: "vessel", days: 1 },
          validity: { kind: "property" as const, property: "noSuch" },
        },
      ],
    };
    const refused = await saveChecklist(admin, "refit", wrong, 0);
    expect(refused).toMatchObject({ ok: false, refusal: { code: "bad-input" } });
    if (refused.ok) throw new Error("not refused");
    expect(refused.refusal.errors?.map((e) => e.path).sort()).toEqual([
      "items.0.documentTypes",
      "items.1.due",
      "items.1.key",
      "items.1.validity",
    ]);
    expect(await saveChecklist(clerk, "refit", { items: [] }, 0)).toMatchObject({ refusal: { code: "not-allowed" } });
  });
});

describe("What is kept", () => {
  test("is the same however many documents are filed to a record at the same moment", async () => {
    const keys = [await booking(true), await booking(true)];
    const jobs = keys.flatMap((key) => [
      file(clerk, "packingList", "freightBooking", key),
      file(clerk, "bookingRequest", "freightBooking", key),
      file(clerk, "temperatureLog", "freightBooking", key),
      file(clerk, "loadingList", "loadingConfirmation", key.replace("B", "L"), { signed: "yes" }),
    ]);
    const refreshing = Array.from({ length: 12 }, () => refreshMarked());
    await Promise.all([...jobs, ...refreshing]);
    await agrees();
    for (const key of keys) expect(await kept(key)).toMatchObject({ missing: 0, in_hand: 4 });
  });

  test("comes out of many looked at by their sign just as out of each looked at for itself", async () => {
    const luck = chance(26);
    const keys: string[] = [];
    for (let i = 0; i < 24; i++) {
      const key = await booking(luck.hits(0.5));
      keys.push(key);
      await putRecord(admin, "MF", "freightBooking", key, {
        title: `Mixed ${i}`,
        parent: { type: "customerAccount", key: "C-1042" },
        fields: {
          sailingDate: luck.pick(["2026-10-30", "2026-11-18", "2026-12-01"]),
          description: luck.pick(["Chilled salmon", "whisky", "timber", ""]),
        },
      });
      for (const type of ["bookingRequest", "packingList", "temperatureLog", "dangerousGoodsNote"])
        if (luck.hits(0.35)) await file(clerk, type, "freightBooking", key);
      if (luck.hits(0.4)) await file(clerk, "loadingList", "freightBooking", key, luck.hits(0.5) ? { signed: "yes" } : {});
    }
    for (const key of keys.slice(0, 4)) {
      const open = Object.entries(await states("freightBooking", key)).find(([, state]) => state === "outstanding");
      if (open) must(await act(clerk, "freightBooking", key, { act: "waive", item: open[0], reason: "not this time" }));
    }
    await refreshAllMarked();
    const rows = async () =>
      (
        await db().execute(
          sql`select c.* from completeness c join record r on r.id = c.record_id where r.key = any(${textArray(keys)}::text[]) order by c.record_id`,
        )
      ).rows;
    const before = await rows();
    expect(before.length).toBeGreaterThan(12);
    // All of it forgotten, and found again by the way that many are looked at.
    await db().execute(sql`delete from completeness where type = 'freightBooking'`);
    const { rules } = await loadChecklist("freightBooking");
    const told: number[] = [];
    const done = await recheckAll("freightBooking", rules.items, async (n) => void told.push(n));
    expect(told.at(-1)).toBe(done);
    expect(await rows()).toEqual(before);
    await agrees();
  });

  test("is put right by the check when somebody altered it", async () => {
    await refreshAllMarked();
    await db().execute(
      sql`update completeness set missing = 0 where record_id in (select record_id from completeness where missing <> 0 order by record_id limit 3)`,
    );
    await db().execute(sql`delete from completeness where record_id = (select max(record_id) from completeness)`);
    const found = (await checkKept({ repair: true })).find((c) => c.what === "record completeness");
    expect(found).toMatchObject({ differences: 4, repaired: true });
    await agrees();
  });

  test("follows a clip by itself while a worker runs, within moments", async () => {
    const key = await booking();
    const worker = keepCompleteness();
    try {
      await file(clerk, "packingList", "freightBooking", key);
      await file(clerk, "bookingRequest", "freightBooking", key);
      for (let i = 0; i < 100 && Number((await kept(key))?.["missing"]) !== 4; i++) await new Promise((go) => setTimeout(go, 20));
      expect(await kept(key)).toMatchObject({ missing: 4 });
    } finally {
      await worker.end();
    }
  });
});
