import { mkdir, readFile, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { eq, sql } from "drizzle-orm";
import { foldPath } from "#core/filing-plan/legal-name.ts";
import { parseArrivalId, parseDocumentCode, type DocumentCode } from "#core/shared/brand.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { listArrivals, loadArrival } from "../arrivals/list-arrivals.ts";
import { readAgain, restore, setAside } from "../arrivals/change-state.ts";
import { changeMany, manySchema } from "../arrivals/change-many.ts";
import { giveUpReading, readArrival } from "../arrivals/read-arrival.ts";
import { landFile, takeIn } from "../arrivals/receive.ts";
import { arrival } from "../arrivals/tables.ts";
import { countChildDocumentDifferences } from "../clips/refresh-child-documents.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import { loadRules, saveRule } from "../filing-plan/load-rules.ts";
import { giveUpPlacing, placeDocument } from "../filing-plan/place-document.ts";
import { previewRule } from "../filing-plan/preview-rule.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { listRecordDocuments, loadRecordPage } from "../records/load-record-page.ts";
import { find } from "../search/find.ts";
import { indexDocument } from "../search/index-document.ts";
import { listLines } from "../timeline/list-lines.ts";
import { checkSeals, sealLines } from "../timeline/seal-lines.ts";
import { fileAway, previewFiling } from "./file-away.ts";
import { loadDocument, loadDocumentFile } from "./load-document.ts";
import { placeAgain } from "./place-again.ts";
import { finishUnfiling, unfile } from "./unfile.ts";
import { writeMail } from "#scenario/papers/write-files.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let light: Actor;
const order = { type: "purchaseOrder", key: "PO-6127", company: "MF" };
const invoice = { documentType: "supplierInvoice", clips: [order], properties: { documentNumber: "77-3108" } };
const code = (text: string): DocumentCode => {
  const parsed = parseDocumentCode(text);
  if (!parsed) throw new Error("no code");
  return parsed;
};
beforeAll(async () => {
  world = await makeSetUpDatabase();
  [admin, clerk, light] = (await Promise.all(
    ["isla.rowe", "tam.corrigall", "pell.ashby"].map((n) => actorByMail(`${n}@merrowick.example`)),
  )) as [Actor, Actor, Actor];
  await putRecord(admin, "MF", "supplierAccount", "S-2004", { title: "Tarrin Marine Fuels", fields: { name: "Tarrin Marine Fuels" } });
  await putRecord(admin, "MF", "purchaseOrder", "PO-6127", {
    title: "Bunkering",
    fields: { orderDate: "2026-11-14" },
    parent: { type: "supplierAccount", key: "S-2004" },
  });
  await putRecord(admin, "QS", "purchaseOrder", "PO-9", { title: "Quay order", fields: { orderDate: "2026-11-14" } });
  await putRecord(admin, "MF", "freightBooking", "B-1", { title: "Booking", fields: { sailingDate: "2026-11-18" } });
  await putRecord(admin, "MF", "crewMember", "E-1", { title: "Rona Firth", fields: { name: "Rona Firth" } });
});
afterAll(async () => {
  await world.end();
});
const onDisk = (relative: string): Promise<string> => readFile(path.join(world.dataFolder, "repository", relative), "utf8");

describe("Filing", () => {
  test("places the document under the right name with proof, and shows it on the record, in Find and in the register", async () => {
    const filed = await fileText(clerk, "inv.txt", "bunkering langoustine 77-3108", invoice);
    expect(filed.path).toBe("Suppliers/Tarrin Marine Fuels S-2004/Purchase orders/2026/PO-6127/Supplier invoice 77-3108.txt");
    expect(await onDisk(filed.path)).toBe("bunkering langoustine 77-3108");
    const document = await loadDocument(clerk, code(filed.code));
    expect(document?.location).toMatchObject({ state: "stored", sha256: document?.versions[0]?.sha256 });
    expect((await find(clerk, { q: "langoustine", limit: 5, offset: 0 })).items.map((d) => d.code)).toContain(filed.code);
    expect((await find(clerk, { q: "773108", limit: 5, offset: 0 })).items.map((d) => d.code)).toContain(filed.code);
    const page = await loadRecordPage(clerk, "supplierAccount", "S-2004", "MF");
    expect(page?.counts).toMatchObject({ own: 0, children: 1 });
    const register = await listArrivals(clerk, { states: ["filed"], limit: 10, offset: 0 });
    expect(register.items[0]).toMatchObject({ document: filed.code, state: "filed" });
    const words = (await listLines(clerk, { documentId: filed.id })).map((l) => l.words);
    expect(words).toEqual([`stored it in ${filed.path}`, "clipped Supplier invoice 77-3108", "filed it as Supplier invoice"]);
  });
  test("the preview says the very place that filing then gives, and writes nothing", async () => {
    const id = await takeText(clerk, "next.txt", "next one");
    const before = await db().execute<{ n: number }>(sql`select count(*)::int as n from folder`);
    const preview = must(await previewFiling(clerk, id, { ...invoice, properties: { documentNumber: "77/99" } }));
    expect((await db().execute<{ n: number }>(sql`select count(*)::int as n from folder`)).rows).toEqual(before.rows);
    expect(must(await fileAway(clerk, id, { ...invoice, properties: { documentNumber: "77/99" } })).path).toBe(preview.place.path);
  });
  test("an arrival is filed once, however many press the key at the same time", async () => {
    const id = await takeText(clerk, "race.txt", "race");
    const outcomes = await Promise.all(Array.from({ length: 8 }, () => fileAway(clerk, id, invoice)));
    expect(outcomes.filter((o) => o.ok)).toHaveLength(1);
    expect(outcomes.filter((o) => !o.ok && o.refusal.code === "stale")).toHaveLength(7);
  });
  test("many documents of one name filed at once all get places of their own (promise 4)", async () => {
    const ids = await Promise.all(Array.from({ length: 12 }, (_, i) => takeText(clerk, `same ${i}.txt`, `same ${i}`)));
    const filed = await Promise.all(ids.map((id, i) => fileAway(clerk, id, { ...invoice, title: i % 2 ? "Same Name" : "same name." })));
    const paths = filed.map((f) => must(f).path);
    expect(new Set(paths.map((p) => foldPath(p.split("/")))).size).toBe(12);
  });
  test("accounts that differ only in capitals never share a folder (promise 5)", async () => {
    for (const [key, name] of [
      ["V-1", "Halven Timber"],
      ["V-2", "Halven timber"],
      ["V-3", "halven TIMBER."],
    ] as const)
      await putRecord(admin, "MF", "vessel", key, { title: name, fields: { name } });
    const paths: string[] = [];
    for (const key of ["V-1", "V-2", "V-3"])
      paths.push(
        (await fileText(admin, "c.txt", key, { documentType: "certificate", clips: [{ type: "vessel", key, company: "MF" }] })).path.split(
          "/",
        )[1] ?? "",
      );
    expect(paths).toEqual(["Halven Timber", "Halven timber V-2", "halven TIMBER. V-3"]);
  });
  test.each([
    ["no record", { clips: [] }, "no-clip"],
    ["a record that is not there", { clips: [{ ...order, key: "PO-0" }] }, "unknown-record"],
    ["an unknown type", { documentType: "poem" }, "unknown-type"],
    ["a wrong property", { properties: { documentDate: "soon" } }, "bad-input"],
    ["records of two companies", { clips: [order, { type: "purchaseOrder", key: "PO-9", company: "QS" }] }, "bad-input"],
    ["a type the clerk has no right to", { documentType: "medicalCertificate" }, "not-allowed"],
    ["a record the clerk may not see", { clips: [{ type: "crewMember", key: "E-1", company: "MF" }] }, "unknown-record"],
  ])("with %s is refused and the arrival still waits", async (_, change, refusal) => {
    const id = await takeText(clerk, "wrong.txt", `wrong ${refusal}`);
    expect(await fileAway(clerk, id, { ...invoice, ...change })).toMatchObject({ ok: false, refusal: { code: refusal } });
    expect((await loadArrival(clerk, id))?.state).toBe("ready");
  });
  test("a name that is there is asked about, or becomes a new version with the old one kept", async () => {
    const first = await fileText(clerk, "v1.txt", "version one", { ...invoice, title: "Terms" });
    const second = await takeText(clerk, "v2.txt", "version two");
    expect(await fileAway(clerk, second, { ...invoice, title: "Terms", onSameName: "ask" })).toMatchObject({
      ok: false,
      refusal: { code: "name-taken", detail: first.code },
    });
    expect(must(await fileAway(clerk, second, { ...invoice, title: "Terms", onSameName: "version" })).code).toBe(first.code);
    await placeDocument(first.id);
    expect(await onDisk(first.path)).toBe("version two");
    expect((await loadDocument(clerk, code(first.code)))?.versions.map((v) => v.version)).toEqual([1, 2]);
  });
});

describe("Filing, the awkward cases", () => {
  test("a refused version leaves nothing of itself behind", async () => {
    const first = await fileText(clerk, "t.txt", "terms as text", { ...invoice, title: "Refused version" });
    const table = await takeText(clerk, "t.csv", "a,b,c\n1,2,3\n4,5,6\n");
    expect(await fileAway(clerk, table, { ...invoice, title: "Refused version", onSameName: "version" })).toMatchObject({
      ok: false,
      refusal: { code: "name-taken" },
    });
    expect((await loadDocument(clerk, code(first.code)))?.versions).toHaveLength(1);
    expect((await loadArrival(clerk, table))?.state).toBe("ready");
  });
  test("a document filed before it was read is found by its words once it is", async () => {
    const landed = must(await landFile(Readable.from([Buffer.from("marmalade for the galley")])));
    const { id } = must(await takeIn(clerk, landed, { fileName: "early.txt", queue: "general", source: "drop", company: "MF" }));
    const filed = must(await fileAway(clerk, id, { ...invoice, title: "Early" }));
    await indexDocument(Number(filed.code.slice(3)));
    await readArrival(id);
    const jobs = await db().execute<{ payload: { documentId: number } }>(
      sql`select payload from graphile_worker._private_jobs where key = ${`index:${Number(filed.code.slice(3))}`}`,
    );
    for (const job of jobs.rows) await indexDocument(job.payload.documentId);
    expect((await find(clerk, { q: "marmalade", limit: 5, offset: 0 })).items.map((d) => d.code)).toEqual([filed.code]);
  });
});

describe("Placing", () => {
  const fileOnly = async (title: string): Promise<{ id: number; path: string; code: string }> => {
    const filed = must(await fileAway(clerk, await takeText(clerk, "p.txt", title), { ...invoice, title }));
    return { ...filed, id: Number(filed.code.slice(3)) };
  };
  test("steps around a file that somebody else put there, and never replaces it", async () => {
    const filed = await fileOnly("Taken");
    const target = path.join(world.dataFolder, "repository", filed.path);
    await mkdir(path.dirname(target), { recursive: true });
    await writeFile(target, "theirs");
    await placeDocument(filed.id);
    expect(await readFile(target, "utf8")).toBe("theirs");
    const place = (await loadDocument(clerk, code(filed.code)))?.location;
    expect(place?.path).toBe(filed.path.replace("Taken.txt", "Taken (2).txt"));
    expect(place?.state).toBe("stored");
  });
  test("done twice and at once is done once", async () => {
    const filed = await fileOnly("Twice");
    await Promise.all([placeDocument(filed.id), placeDocument(filed.id), placeDocument(filed.id)]);
    await placeDocument(filed.id);
    expect((await listLines(clerk, { documentId: filed.id })).filter((l) => l.verb === "placed")).toHaveLength(1);
  });
  test("stopped after the file was put and begun again ends the same (promise 3)", async () => {
    const filed = await fileOnly("Stopped");
    const target = path.join(world.dataFolder, "repository", filed.path);
    await mkdir(path.dirname(target), { recursive: true });
    // What a worker leaves that was killed between putting and writing it down.
    await writeFile(target, "Stopped");
    await placeDocument(filed.id);
    expect((await loadDocument(clerk, code(filed.code)))?.location).toMatchObject({ state: "stored", path: filed.path });
  });
  test("given up on, it says so and can be tried again", async () => {
    const filed = await fileOnly("Given up");
    await giveUpPlacing(filed.id, "EIO");
    expect((await loadDocument(clerk, code(filed.code)))?.location).toMatchObject({ state: "failed", why: "EIO" });
    expect(must(await placeAgain(clerk, code(filed.code))).state).toBe("waiting");
    await placeDocument(filed.id);
    expect((await loadDocument(clerk, code(filed.code)))?.location?.state).toBe("stored");
  });
  test("the database itself refuses *placed* without proof", async () => {
    const filed = await fileOnly("No proof");
    await expect(db().execute(sql`update placement set state = 'stored' where document_id = ${filed.id}`)).rejects.toThrow();
  });
});

describe("Taking back", () => {
  test("a filed document goes back to Arrivals, off its record, out of Find and the repository; twice is once", async () => {
    const filed = await fileText(clerk, "back.txt", "zanzibar", { ...invoice, title: "Back" });
    expect(await loadDocumentFile(clerk, code(filed.code))).toMatchObject({ fileName: path.basename(filed.path) });
    expect(await loadDocumentFile(clerk, code(filed.code), { version: 1 })).toMatchObject({ fileName: "back.txt" });
    expect(await loadDocumentFile(clerk, code(filed.code), { version: 2 })).toBeNull();
    const { arrivalId } = must(await unfile(clerk, code(filed.code)));
    expect(must(await unfile(clerk, code(filed.code))).arrivalId).toBe(arrivalId);
    const id = parseArrivalId(arrivalId);
    expect(id && (await loadArrival(clerk, id))?.state).toBe("ready");
    expect(await loadDocument(clerk, code(filed.code))).toBeNull();
    expect(await loadDocumentFile(clerk, code(filed.code))).toBeNull();
    expect((await find(clerk, { q: "zanzibar", limit: 5, offset: 0 })).total).toBe(0);
    expect(await stat(path.join(world.dataFolder, "repository", filed.path)).catch(() => null)).toBeNull();
    expect(id && must(await fileAway(clerk, id, { ...invoice, title: "Back" })).path).toBe(filed.path);
  });
  test("cut off after the wish was written down, the worker ends it the same", async () => {
    const filed = await fileText(clerk, "cut.txt", "zambezi", { ...invoice, title: "Cut off" });
    await db().execute(sql`update placement set state = 'moving', taken_back_by = ${clerk.id} where document_id = ${filed.id}`);
    await placeDocument(filed.id);
    await finishUnfiling(filed.id);
    await finishUnfiling(filed.id);
    await indexDocument(filed.id);
    expect(await loadDocument(clerk, code(filed.code))).toBeNull();
    expect(await stat(path.join(world.dataFolder, "repository", filed.path)).catch(() => null)).toBeNull();
    expect((await find(clerk, { q: "zambezi", limit: 5, offset: 0 })).total).toBe(0);
    const lines = await db().execute<{ n: number }>(
      sql`select count(*)::int as n from timeline_line where document_id = ${filed.id} and verb = 'unfiled' and who = ${clerk.id}`,
    );
    expect(lines.rows[0]?.n).toBe(1);
  });
  test("setting aside and restoring, one or many", async () => {
    const ids = await Promise.all(["a", "b", "c"].map((t) => takeText(clerk, `${t}.txt`, `aside ${t}`)));
    expect(
      await changeMany(
        clerk,
        manySchema.parse({ ids: [...ids, "00000000-0000-4000-8000-000000000000"], action: "setAside", reason: "junk" }),
      ),
    ).toMatchObject({
      done: 3,
      failures: [{ why: "Not found" }],
    });
    expect(
      (await listArrivals(clerk, { states: ["setAside"], limit: 10, offset: 0 })).items.filter((a) => a.endReason === "junk"),
    ).toHaveLength(3);
    const first = ids[0];
    if (!first) throw new Error("no arrival");
    expect(must(await setAside(clerk, first, "junk")).state).toBe("setAside");
    expect(must(await restore(clerk, first, "")).state).toBe("ready");
    expect(await fileAway(clerk, ids[1] ?? first, invoice)).toMatchObject({ ok: false, refusal: { code: "stale" } });
  });
  test("the register cannot be deleted from", async () => {
    await expect(
      db()
        .delete(arrival)
        .where(sql`true`),
    ).rejects.toThrow();
  });
});

describe("Arrivals", () => {
  test("the same idempotency key is the same arrival; with other bytes it is refused (promise 11)", async () => {
    const one = await takeText(clerk, "k.txt", "keyed", { key: "key-1" });
    expect(await takeText(clerk, "k.txt", "keyed", { key: "key-1" })).toBe(one);
    await expect(takeText(clerk, "k.txt", "other", { key: "key-1" })).rejects.toThrow("key-reused");
  });
  test("a mail's parts are arrivals of their own, each once however often it is read", async () => {
    const mail = writeMail({
      from: "a@b.example",
      to: "c@d.example",
      subject: "s",
      date: "2026-11-18T08:00:00Z",
      text: "hello",
      attachments: [
        { name: "a.txt", type: "text/plain", bytes: Buffer.from("part one") },
        { name: "b.csv", type: "text/csv", bytes: Buffer.from("a,b\n1,2") },
      ],
    });
    const id = await takeText(clerk, "m.eml", mail);
    await must(await readAgain(clerk, id));
    await readArrival(id);
    const found = await loadArrival(clerk, id);
    expect(found?.children).toHaveLength(2);
    expect(found?.kind).toBe("mail");
  });
  test.each([
    ["empty.pdf", "", "empty"],
    ["cut.pdf", "%PDF-1.4\n1 0 obj", "broken"],
    ["is text.pdf", "only words", "mislabelled"],
    ["tool.txt", Uint8Array.from([0x7f, 0x45, 0x4c, 0x46, 2, 1, 1, 0, ...new Uint8Array(80)]), "type-not-allowed"],
  ])("%s says what is wrong, and can be filed all the same", async (name, body, problem) => {
    const id = await takeText(clerk, name, body);
    expect((await loadArrival(clerk, id))?.problem?.code).toBe(problem);
    expect((await fileAway(clerk, id, { ...invoice, title: `Odd ${name}` })).ok).toBe(true);
  });
  test("reading that was given up on can be asked for again", async () => {
    const id = await takeText(clerk, "again.txt", "read me again");
    await db().update(arrival).set({ state: "waiting" }).where(eq(arrival.id, id));
    await giveUpReading(id);
    expect((await loadArrival(clerk, id))?.state).toBe("failed");
    expect(must(await readAgain(clerk, id)).state).toBe("waiting");
    await readArrival(id);
    expect((await loadArrival(clerk, id))?.state).toBe("ready");
  });
  test("filed by hand while it is being read, it stays filed", async () => {
    const id = await takeText(clerk, "busy.txt", "busy");
    await db().update(arrival).set({ state: "reading" }).where(eq(arrival.id, id));
    must(await fileAway(clerk, id, { ...invoice, title: "Busy" }));
    await readArrival(id);
    expect((await loadArrival(clerk, id))?.state).toBe("filed");
  });
});

describe("The filing plan", () => {
  test("a changed rule holds for records that have no folder yet; what is placed stays", async () => {
    const rule = (await loadRules()).get("freightBooking");
    if (!rule) throw new Error("no rule");
    const before = await fileText(admin, "r1.txt", "rule one", {
      documentType: "packingList",
      clips: [{ type: "freightBooking", key: "B-1", company: "MF" }],
      title: "One",
    });
    must(
      await saveRule(
        admin,
        "freightBooking",
        { ...rule.rule, inside: null, rootFolder: "Freight", groupedBy: { field: "sailingDate", period: "month" } },
        rule.version,
      ),
    );
    await putRecord(admin, "MF", "freightBooking", "B-7", { title: "Booking", fields: { sailingDate: "2026-11-18" } });
    const after = await fileText(admin, "r2.txt", "rule two", {
      documentType: "packingList",
      clips: [{ type: "freightBooking", key: "B-7", company: "MF" }],
      title: "Two",
    });
    expect([before.path, after.path]).toEqual(["Unassigned bookings/B-1/One.txt", "Freight/2026-11/B-7/Two.txt"]);
    expect(await onDisk(before.path)).toBe("rule one");
    expect(await saveRule(admin, "freightBooking", rule.rule, rule.version)).toMatchObject({ ok: false, refusal: { code: "stale" } });
  });
  test("the preview names namesakes over all records", async () => {
    const rule = (await loadRules()).get("vessel");
    if (!rule) throw new Error("no rule");
    const preview = must(await previewRule(admin, "vessel", { ...rule.rule, folderName: "{name}", tellApart: null }, "odd", 1));
    expect(preview.clashCount).toBe(1);
    expect(preview.clashes[0]?.keys.toSorted()).toEqual(["V-1", "V-2", "V-3"]);
    expect(await previewRule(clerk, "vessel", rule.rule, "recent", 1)).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
  });
});

describe("What must always hold", () => {
  test("kept and computed agree (promise 9)", async () => {
    expect(await countChildDocumentDifferences(db())).toBe(0);
    const counts = await db().execute<{ n: number }>(
      sql`select count(*)::int as n from record r where document_count <> (select count(*) from clip c where c.record_id = r.id)`,
    );
    expect(counts.rows[0]?.n).toBe(0);
    await putRecord(admin, "MF", "supplierAccount", "S-3", { title: "Other" });
    await putRecord(admin, "MF", "purchaseOrder", "PO-6127", { title: "Bunkering", parent: { type: "supplierAccount", key: "S-3" } });
    expect(await countChildDocumentDifferences(db())).toBe(0);
    expect((await loadRecordPage(admin, "supplierAccount", "S-2004", "MF"))?.counts.children).toBe(0);
  });
  test("the timeline is append-only, and a check finds lines altered or removed behind its back (promise 10)", async () => {
    await expect(db().execute(sql`update timeline_line set who = 'x'`)).rejects.toThrow();
    await expect(db().execute(sql`delete from timeline_line`)).rejects.toThrow();
    expect(await sealLines()).toBeGreaterThan(10);
    expect(await sealLines()).toBe(0);
    expect(await checkSeals()).toEqual([]);
    await db().execute(sql`alter table timeline_line disable trigger timeline_is_append_only`);
    await db().execute(sql`update timeline_line set details = '{"x":"y"}' where id = (select min(id) from timeline_line)`);
    expect(await checkSeals()).toEqual([{ sealId: 1, why: "changed" }]);
    await db().execute(sql`delete from timeline_line where id = (select upper(lines) - 1 from timeline_seal where id = 1)`);
    expect(await checkSeals()).toEqual([{ sealId: 1, why: "missing" }]);
  });
  test("a light user is shown, counted and told nothing of what they may not see (promise 6)", async () => {
    const secret = await fileText(admin, "medical.txt", "xylophone fitness", {
      documentType: "medicalCertificate",
      clips: [{ type: "crewMember", key: "E-1", company: "MF" }],
    });
    for (const actor of [light, clerk]) {
      expect(await loadDocument(actor, code(secret.code))).toBeNull();
      const found = await find(actor, { q: "xylophone", limit: 5, offset: 0 });
      expect([found.total, found.items.length, found.facets.documentType.length]).toEqual([0, 0, 0]);
      expect(await findVisibleRecord(actor, "crewMember", "E-1", "MF")).toBeNull();
      expect((await listArrivals(actor, { states: ["filed"], limit: 100, offset: 0 })).items.map((a) => a.document)).not.toContain(
        secret.code,
      );
      expect(await unfile(actor, code(secret.code))).toMatchObject({ ok: false, refusal: { code: "not-found" } });
    }
    const booking = await findVisibleRecord(light, "freightBooking", "B-1", "MF");
    const shown = booking ? await listRecordDocuments(light, booking, "own", { limit: 50, before: null }) : null;
    expect(shown?.items.map((d) => d.documentType)).toEqual(["packingList"]);
  });
});
