import { Readable } from "node:stream";
import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { beginImport, importRecords, loadJob } from "./import-records.ts";
import { loadRecordPage } from "./load-record-page.ts";
import { lookUp } from "./look-up.ts";
import { countWrongReferences } from "./enter-references.ts";
import { finishUpserts, emptyUpsertBatch } from "./finish-upserts.ts";
import { loadRecordType } from "./load-types.ts";
import { enterRecord, recordInputSchema, upsertRecord } from "./upsert-record.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let light: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  light = await actorByMail("pell.ashby@merrowick.example");
  await putRecord(admin, "MF", "supplierAccount", "S-2004", { title: "Tarrin Marine Fuels", fields: { vatNumber: "GB999000111" } });
  await putRecord(admin, "MF", "purchaseOrder", "PO-6127", {
    title: "Bunkering MV Pale Heron",
    fields: { total: "5835.00", orderDate: "2026-11-14", vessel: "MV Pale Heron" },
    parent: { type: "supplierAccount", key: "S-2004" },
  });
  await putRecord(admin, "MF", "purchaseOrder", "PO-6128", {
    title: "Rope for MV Sandling",
    parent: { type: "supplierAccount", key: "S-2004" },
  });
  await putRecord(admin, "MF", "purchaseOrder", "PO-7000", { title: "Galley stores" });
});
afterAll(async () => {
  await world.end();
});
const keys = async (actor: Actor, q: string, more: Partial<Parameters<typeof lookUp>[1]> = {}) =>
  (await lookUp(actor, { q, limit: 12, ...more })).map((r) => r.key);

describe("Records come in from the business system", () => {
  test("the same twice is one record, and what is left out stays", async () => {
    const first = await putRecord(admin, "MF", "customerAccount", "C-1", { title: "Orrin", fields: { email: "a@b.example", phone: "1" } });
    const second = await putRecord(admin, "MF", "customerAccount", "C-1", { title: "Orrin Shellfish", fields: { phone: "2" } });
    expect(second).toBe(first);
    const page = await loadRecordPage(admin, "customerAccount", "C-1", "MF");
    expect(page?.title).toBe("Orrin Shellfish");
    expect(page?.fields).toMatchObject({ email: "a@b.example", phone: "2" });
  });
  test.each([
    ["a field that is not there", { fields: { nothing: "x" } }, "bad-input"],
    ["a wrong date", { fields: { orderDate: "soon" } }, "bad-input"],
    ["an account that is not there", { parent: { type: "supplierAccount", key: "S-9" } }, "unknown-record"],
    ["an account of the wrong type", { parent: { type: "purchaseOrder", key: "PO-6128" } }, "bad-input"],
    ["following a record that is not there", { follows: [{ type: "payment", key: "x" }] }, "unknown-record"],
  ])("%s is refused and nothing is kept", async (_, input, code) => {
    const saved = await upsertRecord(admin, "MF", "purchaseOrder", "PO-BAD", recordInputSchema.parse({ title: "x", ...input }));
    expect(saved.ok === false && saved.refusal.code).toBe(code);
    expect(await loadRecordPage(admin, "purchaseOrder", "PO-BAD", "MF")).toBeNull();
  });
  test("only with the right to import", async () =>
    expect(await upsertRecord(light, "MF", "freightBooking", "B-1", recordInputSchema.parse({ title: "x" }))).toMatchObject({
      ok: false,
      refusal: { code: "not-allowed" },
    }));
  test("chains join whichever end comes first", async () => {
    for (const key of ["L-1", "L-2", "L-3", "L-4"]) await putRecord(admin, "MF", "loadingConfirmation", key, {});
    await putRecord(admin, "MF", "loadingConfirmation", "L-2", { follows: [{ type: "loadingConfirmation", key: "L-1" }] });
    await putRecord(admin, "MF", "loadingConfirmation", "L-4", { follows: [{ type: "loadingConfirmation", key: "L-3" }] });
    await putRecord(admin, "MF", "loadingConfirmation", "L-3", { follows: [{ type: "loadingConfirmation", key: "L-2" }] });
    const chains = await db().execute<{ n: number }>(
      sql`select count(distinct chain_id)::int as n from record where key in ('L-1','L-2','L-3','L-4')`,
    );
    expect(chains.rows[0]?.n).toBe(1);
    expect((await loadRecordPage(admin, "loadingConfirmation", "L-1", "MF"))?.chain).toHaveLength(4);
  });
});

describe("Many records in one transaction", () => {
  const enter = async (rows: readonly (readonly [key: string, title: string, ...follows: string[]])[]): Promise<void> => {
    const of = await loadRecordType("loadingConfirmation");
    if (!of) throw new Error("no such record type");
    await db().transaction(async (tx) => {
      const left = emptyUpsertBatch();
      for (const [key, title, ...follows] of rows) {
        const input = recordInputSchema.parse({ title, follows: follows.map((f) => ({ type: "loadingConfirmation", key: f })) });
        expect(await enterRecord(tx, left, admin, "MF", of, key, input)).toMatchObject({ ok: true });
      }
      await finishUpserts(tx, left);
    });
  };
  const chains = async (prefix: string) =>
    (
      await db().execute<{ keys: string }>(
        sql`select string_agg(key, ' ' order by key) as keys from record where key like ${`${prefix}%`} group by coalesce(chain_id, -id) order by 1`,
      )
    ).rows.map((r) => r.keys);

  test("chains join as they do one by one, with those that were there", async () => {
    await enter([
      ["N-1", "Old"],
      ["N-2", "Old", "N-1"],
      ["N-3", "Old"],
      ["N-4", "Old", "N-3"],
      ["N-5", "Alone"],
    ]);
    expect(await chains("N-")).toEqual(["N-1 N-2", "N-3 N-4", "N-5"]);
    await enter([
      ["N-6", "New", "N-4"],
      ["N-7", "New", "N-6", "N-2"],
      ["N-8", "New"],
      ["N-9", "New", "N-8"],
    ]);
    expect(await chains("N-")).toEqual(["N-1 N-2 N-3 N-4 N-6 N-7", "N-5", "N-8 N-9"]);
    const names = await db().execute<{
      n: number;
    }>(sql`select count(*)::int as n from record r where r.key like 'N-%' and r.chain_id is not null
      and r.chain_id <> (select min(o.id) from record o where o.chain_id = r.chain_id)`);
    expect(names.rows[0]?.n).toBe(0);
  });

  test("one that comes twice is what its last line says; each is in the timeline and found by what it is called", async () => {
    await enter([
      ["M-1", "Orrery brackets"],
      ["M-2", "Sextant mountings"],
      ["M-1", "Astrolabe brackets"],
    ]);
    expect(await keys(admin, "astrolabe")).toEqual(["M-1"]);
    expect(await keys(admin, "sextent")).toEqual(["M-2"]);
    const lines = await db().execute<{ verb: string }>(
      sql`select l.verb from timeline_line l join record r on r.id = l.record_id where r.key = 'M-1' order by l.id`,
    );
    expect(lines.rows.map((l) => l.verb)).toEqual(["recordMade", "recordChanged"]);
    expect(await countWrongReferences(false)).toBe(0);
  });

  test("the same words from two sides, in any order, do not keep each other waiting", async () => {
    const words = Array.from({ length: 40 }, (_, i) => `Quillon${String.fromCharCode(97 + (i % 26))}${i} holders`);
    await Promise.all([
      enter(words.map((title, i) => [`K-${i}`, title] as const)),
      enter(words.toReversed().map((title, i) => [`J-${i}`, title] as const)),
    ]);
    expect(await keys(admin, "quillona0")).toEqual(expect.arrayContaining(["K-0", "J-39"]));
  });
});

describe("Look-up while typing", () => {
  test.each([
    ["PO-6127", "PO-6127"],
    ["po6127", "PO-6127"],
    ["6127", "PO-6127"],
    ["612", "PO-6127"],
    ["bunk", "PO-6127"],
    ["pale heron", "PO-6127"],
    ["GB999000111", "S-2004"],
    ["po*27", "PO-6127"],
    ["bunkring heron", "PO-6127"],
    ["tarrin marin fuel", "S-2004"],
    ["tarrinn", "S-2004"],
  ])("%s finds %s", async (typed, key) => expect(await keys(admin, typed)).toContain(key));
  test("a key that fits the stars comes first, though many records used since hold the pieces elsewhere", async () => {
    for (let i = 0; i < 70; i++) await putRecord(admin, "MF", "vessel", `V-8${i}`, { title: `PO-61 spare of vessel ${i}7` });
    expect((await keys(admin, "PO-61*7"))[0]).toBe("PO-6127");
  });
  test("nothing typed gives what was used last", async () => expect((await keys(admin, "")).length).toBeGreaterThan(3));
  test("narrowed to what sits beneath an account", async () =>
    expect((await keys(admin, "", { parent: "supplierAccount:S-2004" })).sort()).toEqual(["PO-6127", "PO-6128"]));
  test("says when a typing error was put right", async () =>
    expect((await lookUp(admin, { q: "galey store", limit: 5 }))[0]).toMatchObject({ key: "PO-7000", corrected: true }));
  test("never shows what the person may not see (promise 6)", async () => {
    expect(await keys(light, "6127")).toEqual([]);
    expect(await keys(light, "")).not.toContain("PO-6127");
  });
  test("hostile input is only text", async () => expect(await keys(admin, "'; drop table record; -- %_\\")).toEqual([]));
});

describe("Import from CSV", () => {
  const run = async (text: string) => {
    const { job } = must(await beginImport(admin, "MF", "vessel", Readable.from([Buffer.from(text)])));
    await importRecords(job);
    return { job, answer: await loadJob(admin, job) };
  };
  test("keeps the right rows and lists the wrong ones with line and reason", async () => {
    const { answer } = await run(
      'key,title,name,imo\nV-1,MV One,One,1\n,No key,x,2\nV-2,"MV, Two",Two,3\nV-3,,no title,4\nV-4,MV Four,Four,5,too many\n',
    );
    expect(answer).toMatchObject({ state: "done", done: 3, failed: 2 });
    expect(answer?.failures.map((f) => f.what)).toEqual(["line 3", "line 5"]);
    expect((await loadRecordPage(admin, "vessel", "V-2", "MF"))?.title).toBe("MV, Two");
  });
  test("running it twice changes nothing", async () => {
    const { job } = await run("key;title\nV-9;Nine\n");
    await db().execute(sql`update job_run set state = 'waiting' where id = ${job}`);
    await importRecords(job);
    expect((await db().execute<{ n: number }>(sql`select count(*)::int as n from record where key = 'V-9'`)).rows[0]?.n).toBe(1);
  });
  test.each([
    ["an empty file", ""],
    ["only a head", "key,title\n"],
    ["no CSV at all", `\u0000\u0001\u0002${"x".repeat(250_000)}`],
    ["an open quote", 'key,title\nV-8,"never closed\nV-7,x'],
  ])("%s is answered, not crashed on", async (_, text) => {
    const { answer } = await run(text);
    expect(answer?.state).toMatch(/done|failed/);
    expect(answer?.failures.length).toBeGreaterThan(0);
  });
  test("somebody else's job is not there", async () => expect(await loadJob(light, (await run("key,title\nV-5,Five\n")).job)).toBeNull());
});
