import { createHmac, randomUUID } from "node:crypto";
import fc from "fast-check";
import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { startBusiness, type BusinessStandIn } from "../../../standins/start-business.ts";
import { freeLoopbackPort } from "../../../standins/standin.ts";
import { checkKept } from "../check/check-kept.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { makeEmptyDatabase, makeSetUpDatabase, must, putRecord, takeAndLook } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { lookUp } from "../records/look-up.ts";
import { listRecordDocuments, loadRecordPage } from "../records/load-record-page.ts";
import { suggestFor } from "../matching/suggest-for.ts";
import { sendDraftAgain, withdrawDraft } from "./change-draft.ts";
import { listDrafts, loadDraft } from "./list-drafts.ts";
import { draftInputSchema, makeDraft } from "./make-draft.ts";
import { sendDraft } from "./send-draft.ts";
import { settleDraft } from "./settle-draft.ts";
import { isSigned, takeEvent } from "./take-event.ts";

const secret = "only for tests, only for tests";
const KEY = "a key for tests";
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let business: BusinessStandIn;
let admin: Actor;
beforeAll(async () => {
  const port = await freeLoopbackPort();
  Object.assign(process.env, { AMBER_BUSINESS_URL: `http://127.0.0.1:${port}`, AMBER_BUSINESS_KEY: KEY, AMBER_BUSINESS_SECRET: secret });
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  business = await startBusiness({ port, databaseUrl: (await makeEmptyDatabase()).url, key: KEY });
  const supplier = { title: "Tarrin Marine Fuels", fields: { name: "Tarrin Marine Fuels" } };
  await putRecord(admin, "MF", "supplierAccount", "S-2004", supplier);
  await putRecord(admin, "MF", "purchaseOrder", "PO-1", {
    title: "Rope",
    status: "received",
    amount: "100.00",
    currency: "GBP",
    parent: { type: "supplierAccount", key: "S-2004" },
  });
  const common = { company: "MF", lines: null, follows: [] };
  await business.call("POST", "/load", [
    { ...common, type: "supplierAccount", key: "S-2004", status: "active", parent: null, ...supplier },
    {
      ...common,
      type: "purchaseOrder",
      key: "PO-1",
      title: "Rope",
      status: "received",
      fields: {},
      parent: { type: "supplierAccount", key: "S-2004" },
    },
  ]);
});
afterAll(async () => {
  await business.stop();
  await world.end();
});
afterEach(() => business.setFaults({}));

const input = (number: string, over: Record<string, unknown> = {}) =>
  draftInputSchema.parse({
    company: "MF",
    type: "supplierInvoice",
    fields: { documentNumber: number, documentDate: "2026-11-18", net: "100.00", tax: "20.00", total: "120.00", currency: "GBP" },
    sources: { documentNumber: { from: "paper", page: 1, box: [1, 2, 3, 4], text: number, certainty: 0.99 } },
    parent: { type: "supplierAccount", key: "S-2004" },
    follows: [{ type: "purchaseOrder", key: "PO-1" }],
    filing: {
      documentType: "supplierInvoice",
      properties: { documentNumber: number, total: "120.00" },
      clips: [{ company: "MF", type: "purchaseOrder", key: "PO-1" }],
    },
    ...over,
  });
const paperOf = async (number: string) =>
  takeAndLook(admin, `${number}.pdf`, await makePaper(`Tarrin Marine Fuels\nINVOICE ${number}\nTotal GBP 120.00`));
const made = async (number: string) => must(await makeDraft(admin, await paperOf(number), input(number)));
const event = (record: Record<string, unknown>, draft: string | null = null, id: string = randomUUID()) => {
  const body = JSON.stringify({
    id,
    kind: "record",
    draft,
    record: { company: "MF", status: null, fields: {}, lines: null, parent: null, follows: [], ...record },
  });
  const at = String(Math.floor(Date.now() / 1000));
  const signature = `sha256=${createHmac("sha256", secret).update(`${at}.${body}`).digest("hex")}`;
  return { body, headers: new Headers({ "x-event-time": at, "x-event-signature": signature }) };
};
const take = (e: ReturnType<typeof event>) => takeEvent(e.headers, e.body);

describe("An invoice of a supplier that nobody knows", () => {
  const supplier = (name: string, more: Record<string, string> = {}) => ({ type: "supplierAccount", title: "", fields: { name, ...more } });
  const withAccount = (number: string, name: string, more: Record<string, string> = {}) =>
    input(number, {
      parent: null,
      follows: [],
      newParent: supplier(name, more),
      filing: { documentType: "supplierInvoice", properties: { documentNumber: number, total: "120.00" }, clips: [] },
    });
  const draftOf = async (type: string, title: string) =>
    must2((await listDrafts(admin, { limit: 50 })).find((d) => d.record.type === type && d.record.title.startsWith(title)) ?? null);
  test("is made together with its account, and the account is entered first", async () => {
    const made = must(await makeDraft(admin, await paperOf("90-1"), withAccount("90-1", "Sule Skerry Ropes")));
    const account = await draftOf("supplierAccount", "Sule Skerry Ropes");
    expect((await loadRecordPage(admin, "supplierInvoice", made.record.key, "MF"))?.parent).toMatchObject({ key: account.record.key });
    expect(made.filed.title).toContain("90-1");
    // Sent before its account it waits, and says for what.
    await sendDraft(made.draft);
    expect(await loadDraft(admin, made.draft)).toMatchObject({ state: "sending", problem: `waits until ${account.record.key} is entered` });
    await sendDraft(account.id);
    const entered = must2(await loadDraft(admin, account.id));
    expect(entered).toMatchObject({ state: "accepted", record: { key: expect.stringMatching(/^S-\d+$/) as string } });
    await sendDraft(made.draft);
    const invoice = must2(await loadDraft(admin, made.draft));
    expect(invoice).toMatchObject({ state: "accepted", problem: null });
    expect((await loadRecordPage(admin, "supplierInvoice", invoice.record.key, "MF"))?.parent).toMatchObject({ key: entered.record.key });
    expect(await lookUp(admin, { q: "Sule Skerry", type: "supplierAccount", limit: 3 })).toMatchObject([{ key: entered.record.key }]);
  });
  test("that is taken back takes its unsent account along; the account alone is not taken from under it", async () => {
    const made = must(await makeDraft(admin, await paperOf("90-2"), withAccount("90-2", "Foula Nets")));
    const account = await draftOf("supplierAccount", "Foula Nets");
    expect(await withdrawDraft(admin, account.id)).toMatchObject({ refusal: { code: "still-there" } });
    expect(await loadDraft(admin, account.id)).toMatchObject({ state: "sending" });
    must(await withdrawDraft(admin, made.draft));
    expect([(await loadDraft(admin, made.draft))?.state, (await loadDraft(admin, account.id))?.state]).toEqual(["withdrawn", "withdrawn"]);
  });
  test("waits while its account is refused, and goes on once that is put right", async () => {
    await makeDraft(admin, await paperOf("90-3"), withAccount("90-3", "Stroma Paints", { vatNumber: "GB100000001" }));
    await sendDraft((await draftOf("supplierAccount", "Stroma Paints")).id);
    const made = must(
      await makeDraft(admin, await paperOf("90-4"), withAccount("90-4", "Stroma Paint Works", { vatNumber: "GB100000001" })),
    );
    const account = await draftOf("supplierAccount", "Stroma Paint Works");
    await sendDraft(account.id);
    expect(await loadDraft(admin, account.id)).toMatchObject({ state: "refused", reasons: [{ path: "fields.vatNumber" }] });
    await sendDraft(made.draft);
    expect((await loadDraft(admin, made.draft))?.state).toBe("sending");
    must(await sendDraftAgain(admin, account.id, { fields: { vatNumber: "GB100000002" } }));
    await sendDraft(account.id);
    await sendDraft(made.draft);
    expect((await loadDraft(admin, made.draft))?.state).toBe("accepted");
  });
  test("is refused with fields of the account that do not fit, and beside an account that is there; then nothing is made", async () => {
    const paper = await paperOf("90-5");
    expect(await makeDraft(admin, paper, withAccount("90-5", ""))).toMatchObject({
      refusal: { code: "bad-input", errors: [{ path: "newAbove.fields.name" }] },
    });
    expect(await makeDraft(admin, paper, input("90-5", { newParent: supplier("Twice") }))).toMatchObject({
      refusal: { code: "bad-input" },
    });
    expect(await loadArrival(admin, paper)).toMatchObject({ state: "ready" });
  });
});

test("the document is clipped to the draft at once, and stays with it under its number, through posting and payment", async () => {
  const draft = await made("77-1");
  expect(draft.record.key).toMatch(/^D-\d+$/);
  expect(draft.filed.code).toMatch(/^AC-/);
  const before = await loadRecordPage(admin, "supplierInvoice", draft.record.key, "MF");
  expect(before).toMatchObject({ status: "draft", counts: { own: 1 }, draft: { state: "sending" } });
  await sendDraft(draft.draft);
  const entered = must2(await loadDraft(admin, draft.draft));
  expect(entered).toMatchObject({ state: "accepted", record: { status: "entered" }, document: draft.filed.code });
  const number = entered.record.key;
  expect(number).toMatch(/^SI-\d+$/);
  // What it was called as a draft still leads to it.
  expect(await loadRecordPage(admin, "supplierInvoice", draft.record.key, "MF")).toMatchObject({ key: number });
  // The business system tells of it too, and of what follows from posting.
  const told = event(
    { type: "supplierInvoice", key: number, title: "Tarrin Marine Fuels 77-1", status: "posted", fields: { documentNumber: "77-1" } },
    draft.draft,
  );
  expect(must(await take(told))).toEqual({ taken: true });
  expect(must(await take(told))).toEqual({ taken: false });
  must(
    await take(
      event({
        type: "ledgerEntry",
        key: "LE-1",
        title: "Posted 77-1",
        fields: { total: "120.00" },
        follows: [{ type: "supplierInvoice", key: number }],
      }),
    ),
  );
  must(await take(event({ type: "payment", key: "PY-1", title: "Payment", follows: [{ type: "supplierInvoice", key: number }] })));
  const page = await loadRecordPage(admin, "payment", "PY-1", "MF");
  expect(page?.chain.map((c) => c.key).sort()).toEqual(["LE-1", "PO-1", "PY-1", number].sort());
  const entry = must2(await findVisibleRecord(admin, "ledgerEntry", "LE-1", "MF"));
  const shown = await listRecordDocuments(admin, entry, "chain", { limit: 10, before: null });
  expect(JSON.stringify(shown)).toContain(draft.filed.code);
  expect(await differing()).toEqual([]);
});

test("a document makes one record: the same wish again gives the same draft, and only one is sent", async () => {
  const id = await paperOf("77-2");
  const first = must(await makeDraft(admin, id, input("77-2")));
  const second = must(await makeDraft(admin, id, input("77-2")));
  expect(second).toMatchObject({ draft: first.draft, record: first.record, filed: { code: first.filed.code } });
  await sendDraft(first.draft);
  await sendDraft(first.draft);
  expect((await listDrafts(admin, { limit: 50 })).filter((d) => d.id === first.draft)).toHaveLength(1);
});

test("what is missing or wrong is said by field, and nothing is left behind", async () => {
  const id = await paperOf("77-3");
  const refused = await makeDraft(admin, id, input("77-3", { fields: { documentDate: "yesterday" } }));
  expect(refused).toMatchObject({ ok: false, refusal: { code: "bad-input" } });
  expect(refused.ok ? [] : refused.refusal.errors?.map((e) => e.path)).toEqual(
    expect.arrayContaining(["fields.documentNumber", "fields.documentDate", "fields.total"]),
  );
  // A filing that is refused takes the record with it.
  const before = await count();
  const unfiled = await makeDraft(
    admin,
    id,
    input("77-3", { filing: { documentType: "supplierInvoice", properties: { total: "much" }, clips: [] } }),
  );
  expect(unfiled.ok).toBe(false);
  expect(await count()).toEqual(before);
  expect((await makeDraft(admin, id, input("77-3", { type: "vessel" }))).ok).toBe(false);
  expect(await makeDraft(admin, id, input("77-3", { parent: { type: "supplierAccount", key: "S-9" } }))).toMatchObject({
    ok: false,
    refusal: { code: "unknown-record" },
  });
});
const count = async () =>
  (
    await db().execute<{ records: number; drafts: number }>(
      sql`select (select count(*) from record)::int as records, (select count(*) from draft)::int as drafts`,
    )
  ).rows[0];

test("one that nobody has begun to send is taken back as if it had never been made; one that is under way is not", async () => {
  const id = await paperOf("77-90");
  const first = must(await makeDraft(admin, id, input("77-90")));
  const waits = await db().execute<{ seconds: number }>(sql`select extract(epoch from run_at - now())::float8 as seconds
    from graphile_worker._private_jobs where key = ${`sendDraft:${first.draft}`}`);
  expect(waits.rows[0]?.seconds).toBeGreaterThan(5);
  expect(must(await withdrawDraft(admin, first.draft)).arrivalId).toBe(id);
  // Its document is not told that it belongs to what was taken back, which says all that it says.
  await suggestFor(id);
  const suggested = (await loadArrival(admin, id))?.suggestions.map((s) => s.key);
  expect(suggested).toBeDefined();
  expect(suggested).not.toContain(first.record.key);
  // Nor is it offered to whoever looks for a record.
  expect((await lookUp(admin, { q: first.record.key, limit: 10 })).map((h) => h.key)).not.toContain(first.record.key);
  // Its job finds nothing to send.
  await sendDraft(first.draft);
  expect(must2(await loadDraft(admin, first.draft))).toMatchObject({ state: "withdrawn", record: { status: "withdrawn" } });
  expect(await withdrawDraft(admin, first.draft)).toMatchObject({ ok: false, refusal: { code: "stale" } });
  // Made again from the same document: this time somebody has begun to send it.
  const second = must(await makeDraft(admin, id, input("77-90")));
  expect(second.draft).not.toBe(first.draft);
  await db().execute(sql`update draft set begun_at = now() where id = ${second.draft}`);
  expect(await withdrawDraft(admin, second.draft)).toMatchObject({ ok: false, refusal: { code: "stale" } });
  // Its document cannot go back: it is sent after all.
  const third = await made("77-91");
  await db().execute(
    sql`update placement set state = 'moving' where document_id = (select id from document where code = ${third.filed.code})`,
  );
  expect((await withdrawDraft(admin, third.draft)).ok).toBe(false);
  expect(must2(await loadDraft(admin, third.draft)).state).toBe("sending");
});

test("refused: its reasons stand by their fields; put right it is sent again; or withdrawn, and its document waits again", async () => {
  await sendDraft((await made("77-4")).draft);
  const double = await made("77 4");
  await sendDraft(double.draft);
  const refused = must2(await loadDraft(admin, double.draft));
  expect(refused.state).toBe("refused");
  expect(refused.reasons[0]).toMatchObject({ path: "fields.documentNumber", message: expect.stringContaining("entered already") });
  expect(await sendDraftAgain(admin, double.draft, { fields: { documentNumber: "" } })).toMatchObject({
    ok: false,
    refusal: { code: "bad-input" },
  });
  must(await sendDraftAgain(admin, double.draft, { fields: { documentNumber: "77-4b" } }));
  await sendDraft(double.draft);
  expect(must2(await loadDraft(admin, double.draft))).toMatchObject({ state: "accepted", sources: { documentNumber: { from: "person" } } });
  expect(await withdrawDraft(admin, double.draft)).toMatchObject({ ok: false, refusal: { code: "stale" } });
  const third = await made("77.4");
  await sendDraft(third.draft);
  const back = must(await withdrawDraft(admin, third.draft));
  expect(back.arrivalId).not.toBeNull();
  expect(must2(await loadDraft(admin, third.draft))).toMatchObject({ state: "withdrawn", record: { status: "withdrawn" } });
  const state = await db().execute<{ state: string }>(sql`select state from arrival where id = ${back.arrivalId}::uuid`);
  expect(state.rows[0]?.state).toBe("ready");
});

test("not reachable: kept, said, tried again later, entered once the system is back", async () => {
  const draft = await made("77-5");
  await business.setFaults({ down: true });
  await sendDraft(draft.draft);
  await sendDraft(draft.draft);
  const waits = must2(await loadDraft(admin, draft.draft));
  expect(waits).toMatchObject({ state: "sending", problem: "unreachable", attempts: 2 });
  expect(new Date(waits.nextTryAt ?? 0).getTime()).toBeGreaterThan(Date.now());
  const jobs = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from graphile_worker.jobs where key = ${`sendDraft:${draft.draft}`}`,
  );
  expect(jobs.rows[0]?.n).toBe(1);
  await business.setFaults({});
  await sendDraft(draft.draft);
  expect(must2(await loadDraft(admin, draft.draft)).state).toBe("accepted");
});

test("entered, and the line dropped before the answer: sent again it is the same record there, not a second one", async () => {
  const draft = await made("77-6");
  await business.setFaults({ drops: true });
  await sendDraft(draft.draft);
  expect(must2(await loadDraft(admin, draft.draft))).toMatchObject({ state: "sending", problem: "unreachable" });
  await business.setFaults({});
  await sendDraft(draft.draft);
  const entered = must2(await loadDraft(admin, draft.draft));
  expect(entered.state).toBe("accepted");
  expect(entered.reasons).toEqual([]);
});

test("told by the web hook before the answer came: the draft is that record", async () => {
  const draft = await made("77-7");
  must(await take(event({ type: "supplierInvoice", key: "SI-7777", title: "Tarrin Marine Fuels 77-7", status: "entered" }, draft.draft)));
  expect(must2(await loadDraft(admin, draft.draft))).toMatchObject({ state: "accepted", record: { key: "SI-7777" } });
  // The job that comes late finds nothing to send.
  await sendDraft(draft.draft);
  expect(must2(await loadDraft(admin, draft.draft)).record.key).toBe("SI-7777");
});

test("a record of its number is there already: the documents are clipped to that one, counted once", async () => {
  await putRecord(admin, "MF", "supplierInvoice", "SI-8888", {
    title: "There before",
    status: "entered",
    parent: { type: "supplierAccount", key: "S-2004" },
  });
  const draft = await made("77-8");
  must(await take(event({ type: "supplierInvoice", key: "SI-8888", title: "Tarrin Marine Fuels 77-8", status: "entered" }, draft.draft)));
  expect(await loadRecordPage(admin, "supplierInvoice", "SI-8888", "MF")).toMatchObject({ counts: { own: 1 } });
  expect(await loadRecordPage(admin, "supplierInvoice", draft.record.key, "MF")).toMatchObject({ status: "withdrawn", counts: { own: 0 } });
  expect(await differing()).toEqual([]);
});

test("answer and messages come in any order, some of them twice: the end is the same (promise 11)", async () => {
  let round = 0;
  await fc.assert(
    fc.asyncProperty(fc.shuffledSubarray([0, 1, 2, 3, 0, 1, 2, 3], { minLength: 8 }), async (plan) => {
      const n = `any-${++round}`;
      const { draft, filed } = await made(n);
      const key = `SI-9${String(round).padStart(3, "0")}`;
      const about = { type: "supplierInvoice", key, title: `Tarrin ${n}`, fields: { documentNumber: n } };
      const acts = [
        // The answer to what was sent; told that it was entered; told that it was posted; its ledger entry.
        () => settleDraft(draft, key, "entered"),
        () => take(entered),
        () => take(posted),
        () => take(entry),
      ] as const;
      const entered = event({ ...about, status: "entered" }, draft);
      const posted = event({ ...about, status: "posted" }, draft);
      const entry = event({ type: "ledgerEntry", key: `LE-9${round}`, title: `Posted ${n}`, follows: [{ type: "supplierInvoice", key }] });
      // What follows a record that is not there yet is refused, and comes again, as the sender does it.
      for (const act of [...plan, 1, 2, 3]) await acts[act as 0 | 1 | 2 | 3]();
      const page = must2(await loadRecordPage(admin, "supplierInvoice", key, "MF"));
      expect(page).toMatchObject({ key, counts: { own: 1 }, draft: { state: "accepted", document: filed.code } });
      expect(page.chain.filter((c) => c.type === "ledgerEntry").map((c) => c.key)).toContain(`LE-9${round}`);
      const same = await db().execute<{ n: number }>(
        sql`select count(*)::int as n from record where key = ${key} or title = ${`Posted ${n}`}`,
      );
      expect(same.rows[0]?.n).toBe(2);
    }),
    { numRuns: 8 },
  );
  expect(await differing()).toEqual([]);
}, 120_000);

describe("messages of the business system", () => {
  test("without its signature, altered, or played again later, nobody is believed", async () => {
    const good = event({ type: "supplierAccount", key: "S-1", title: "One" });
    expect(await takeEvent(new Headers(), good.body)).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
    expect(await takeEvent(good.headers, good.body.replace("One", "Two"))).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
    const at = String(Math.floor(Date.now() / 1000));
    const signature = `sha256=${createHmac("sha256", secret).update(`${at}.x`).digest("hex")}`;
    expect(isSigned(secret, at, "x", signature, Number(at) + 299)).toBe(true);
    expect(isSigned(secret, at, "x", signature, Number(at) + 301)).toBe(false);
    expect(isSigned(secret, at, "x", "sha256=", Number(at))).toBe(false);
    expect(isSigned(secret, "now", "x", signature, Number(at))).toBe(false);
  });
  test("what is malformed, unknown or follows nothing is said, and may come again when it can be carried out", async () => {
    const bad = event({ type: "supplierAccount", key: "", title: "" });
    expect(await take(bad)).toMatchObject({ ok: false, refusal: { code: "bad-input" } });
    expect(await take(event({ company: "XX", type: "supplierAccount", key: "S-1", title: "x" }))).toMatchObject({
      ok: false,
      refusal: { code: "bad-input", errors: [{ path: "record.company", message: "is not known here" }] },
    });
    expect(await take(event({ type: "spaceship", key: "1", title: "x" }))).toMatchObject({ ok: false, refusal: { code: "unknown-type" } });
    const early = event({ type: "ledgerEntry", key: "LE-9", title: "Early", follows: [{ type: "supplierInvoice", key: "SI-none" }] });
    expect(await take(early)).toMatchObject({ ok: false, refusal: { code: "unknown-record" } });
    await putRecord(admin, "MF", "supplierInvoice", "SI-none", { title: "Late" });
    expect(must(await take(early))).toEqual({ taken: true });
  });
});

test("who may not see the record sees neither the draft nor its state", async () => {
  const draft = await made("77-9");
  const crew = await actorByMail("maren.holt@merrowick.example");
  expect(await loadDraft(crew, draft.draft)).toBeNull();
  expect(await listDrafts(crew, { limit: 50 })).toEqual([]);
  expect(await sendDraftAgain(crew, draft.draft, { fields: {} })).toMatchObject({ ok: false, refusal: { code: "not-found" } });
  expect(await withdrawDraft(crew, draft.draft)).toMatchObject({ ok: false, refusal: { code: "not-found" } });
});

/** Maintained figures that differ from a fresh computation; nothing is indexed here. */
const differing = async () => (await checkKept({ repair: false })).filter((c, i) => i !== 2 && c.differences > 0).map((c) => c.what);

function must2<T>(value: T | null): T {
  if (value === null) throw new Error("nothing there");
  return value;
}
