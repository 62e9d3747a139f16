import { mkdir, readdir, readFile, rename, rm, stat, utimes, writeFile } from "node:fs/promises";
import path from "node:path";
import { sql } from "drizzle-orm";
import { parseDocumentCode, parseSha256 } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { listArrivals } from "../arrivals/list-arrivals.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import { changeDocument, changeSchema } from "../documents/change-document.ts";
import { fileAway } from "../documents/file-away.ts";
import { loadDocument } from "../documents/load-document.ts";
import { localFile } from "../documents/local-file.ts";
import { unfile } from "../documents/unfile.ts";
import { openRepository } from "../filing-plan/open-repository.ts";
import { placeDocument } from "../filing-plan/place-document.ts";
import { loadRules, saveRule } from "../filing-plan/load-rules.ts";
import { comparePlanFile, exportPlan, importPlanFile } from "../filing-plan/plan-file.ts";
import type { Actor } from "../people/load-actor.ts";
import { landingStore } from "../ports/adapters.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { listRecordDocuments, loadRecordPage } from "../records/load-record-page.ts";
import { moveRecordFolder } from "../records/move-record-folder.ts";
import { lockSecret, openSecret } from "../settings/secret-box.ts";
import { listLocations, listTree } from "./browse.ts";
import { carryPointers, rewritePointers } from "./carry-pointers.ts";
import { decideFindings, listFindings } from "./decide-findings.ts";
import { checkConnection, connectionInputSchema, keepSetUp, listConnections, putConnection } from "./manage-connections.ts";
import { beginProvision, provision } from "./provision.ts";
import { proveSome } from "./prove-again.ts";
import { settleDifferences } from "./settle-differences.ts";
import { releaseLocal } from "./release-local.ts";
import { scanConnection } from "./scan.ts";
import { makeShelf, putOnShelf, changeShelf } from "./shelves.ts";
import { takeFound } from "./take-found.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let light: Actor;
const KEY = "companyFolders";
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  light = await actorByMail("pell.ashby@merrowick.example");
  for (const n of [1, 2, 3]) await putRecord(admin, "MF", "vessel", `V-${n}`, { title: `MV ${n}`, fields: { name: `MV ${n}` } });
});
afterAll(async () => {
  await world.end();
});
const at = (relative: string): string => path.join(world.dataFolder, "repository", relative);
const clip = (key: string) => ({ company: "MF", type: "vessel", key });
const certificate = (key: string, title: string, text = `${key} ${title}`) =>
  fileText(admin, `${title}.txt`, text, { documentType: "certificate", title, clips: [clip(key)] });
const load = async (code: string) => {
  const parsed = parseDocumentCode(code);
  if (!parsed) throw new Error("no code");
  return loadDocument(admin, parsed);
};
const codeOf = (text: string) => {
  const parsed = parseDocumentCode(text);
  if (!parsed) throw new Error("no code");
  return parsed;
};
/** Looks the repository through and takes what has settled, as the worker does. */
async function look(): Promise<void> {
  await scanConnection(KEY);
  for (const { id } of (await db().execute<{ id: number }>(sql`select id from finding where state = 'settling'`)).rows) await takeFound(id);
}
const papersOf = async (key: string) => {
  const record = await findVisibleRecord(admin, "vessel", key, "MF");
  return record ? (await listRecordDocuments(admin, record, "own", { limit: 50, before: null })).items : [];
};
const open = async () => must(await listFindings(admin, { state: "open", limit: 50, offset: 0 })).items;

describe("What people do in the folders themselves", () => {
  test("a new file in a record's folder becomes a document of that record, with its register line; our own files are not taken for new", async () => {
    await certificate("V-1", "Class");
    await look();
    expect(await papersOf("V-1")).toHaveLength(1);
    await writeFile(at("Fleet/MV 1/Survey report hull.txt"), "put there by hand");
    await mkdir(at("Fleet/MV 1/Photos/2026"), { recursive: true });
    await writeFile(at("Fleet/MV 1/Photos/2026/bow.txt"), "in a folder within");
    await look();
    const papers = await papersOf("V-1");
    expect(papers.map((p) => [p.title, p.documentType, p.source]).sort()).toEqual([
      ["Class", "certificate", "drop"],
      ["Survey report hull", "surveyReport", "repository"],
      ["bow", "other", "repository"],
    ]);
    const bow = await load(papers.find((p) => p.title === "bow")?.code ?? "");
    expect(bow).toMatchObject({ typeSaid: false, location: { state: "stored", path: "Fleet/MV 1/Photos/2026/bow.txt" } });
    expect(bow?.clips[0]?.section).toBe("Photos/2026");
    const register = await listArrivals(admin, { states: ["filed"], source: "repository", limit: 10, offset: 0 });
    expect(register.items.map((a) => a.fileName).sort()).toEqual(["Survey report hull.txt", "bow.txt"]);
    await look();
    expect(await papersOf("V-1")).toHaveLength(3);
  });
  test("a document of ours that was seen where its folder had just been moved to is no new one when that is written down", async () => {
    const before = (await papersOf("V-1")).length;
    await writeFile(at("Fleet/MV 1/seen early.txt"), "any");
    await scanConnection(KEY);
    const { size, mtimeMs } = await stat(at("Fleet/MV 1/Class.txt"));
    const { rows } = await db().execute<{ id: number }>(sql`update finding set path = 'Fleet/MV 1/Class.txt', seen_bytes = ${size},
      seen_modified_ms = ${Math.trunc(mtimeMs)} where path like '%seen early.txt' returning id`);
    await rm(at("Fleet/MV 1/seen early.txt"));
    await takeFound(rows[0]?.id ?? 0);
    expect((await db().execute(sql`select 1 from finding where id = ${rows[0]?.id}`)).rows).toEqual([]);
    expect(await papersOf("V-1")).toHaveLength(before);
  });
  test("documents of ours that were listed where their folder stood before it was moved are no new ones", async () => {
    const counts = { fresh: 0, gone: 0, moved: 0 };
    const listed = (name: string) => ({
      file: { path: `Fleet/MV 1/${name}`, sizeBytes: 8, modifiedMs: 1, mark: "" },
      folderId: null,
      recordId: null,
      isStray: false,
    });
    await writeFile(at("Fleet/MV 1/still there.txt"), "anything");
    await settleDifferences(KEY, await openRepository(KEY), [], [listed("was here.txt"), listed("still there.txt")], counts);
    expect(counts).toEqual({ fresh: 1, gone: 0, moved: 0 });
    expect((await db().execute(sql`delete from finding where kind = 'new' and state = 'settling' returning path`)).rows).toEqual([
      { path: "Fleet/MV 1/still there.txt" },
    ]);
    await rm(at("Fleet/MV 1/still there.txt"));
  });
  test("a file that is still being written is not taken until it has settled", async () => {
    await writeFile(at("Fleet/MV 1/slow.txt"), "first half");
    await scanConnection(KEY);
    await writeFile(at("Fleet/MV 1/slow.txt"), "first half, second half");
    const id = (await db().execute<{ id: number }>(sql`select id from finding where path like '%slow.txt'`)).rows[0]?.id ?? 0;
    await takeFound(id);
    expect((await papersOf("V-1")).map((p) => p.title)).not.toContain("slow");
    await takeFound(id);
    const slow = (await papersOf("V-1")).find((p) => p.title === "slow");
    expect((await load(slow?.code ?? ""))?.versions[0]?.bytes).toBe("first half, second half".length);
  });
  test("while there is no room for its bytes a file is left where it is, and taken once there is; killed in between it is taken once", async () => {
    await writeFile(at("Fleet/MV 1/Tight squeeze.txt"), "no room yet");
    await scanConnection(KEY);
    const id = (await db().execute<{ id: number }>(sql`select id from finding where path like '%squeeze.txt'`)).rows[0]?.id ?? 0;
    const store = landingStore();
    await takeFound(id, null, { ...store, keep: () => Promise.resolve(refuse("no-space")) });
    const titles = async () => (await papersOf("V-1")).map((p) => p.title).filter((t) => t === "Tight squeeze");
    expect(await titles()).toEqual([]);
    expect(await readFile(at("Fleet/MV 1/Tight squeeze.txt"), "utf8")).toBe("no room yet");
    // As if the process had died after the bytes were kept and before anything was entered.
    const dies: typeof store.keep = async (stream, most) => {
      await store.keep(stream, most);
      throw new Error("killed here");
    };
    await expect(takeFound(id, null, { ...store, keep: dies })).rejects.toThrow("killed here");
    expect(await titles()).toEqual([]);
    await look();
    await look();
    expect(await titles()).toEqual(["Tight squeeze"]);
  });
  test("a changed file becomes a new version; only touched it stays as it is", async () => {
    const { code, path: place } = await certificate("V-2", "Load line");
    await look();
    await utimes(at(place), new Date(), new Date(Date.now() - 60_000));
    await look();
    expect((await load(code))?.versions).toHaveLength(1);
    await writeFile(at(place), "changed by hand");
    await look();
    const after = await load(code);
    expect(after?.versions).toHaveLength(2);
    expect(after?.location).toMatchObject({ state: "stored", sha256: after?.versions[1]?.sha256 });
    expect(await readFile(landingStore().pathOf(parseSha256(after?.versions[1]?.sha256 ?? "")), "utf8")).toBe("changed by hand");
  });
  test("renamed and moved files are followed by their bytes, a renamed folder with all in it", async () => {
    const { code, path: place } = await certificate("V-3", "Radio");
    const other = await certificate("V-3", "Safety");
    await look();
    await rename(at(place), at("Fleet/MV 3/Radio licence.txt"));
    await look();
    expect((await load(code))?.location).toMatchObject({ state: "stored", path: "Fleet/MV 3/Radio licence.txt" });
    await mkdir(at("Fleet/Elsewhere"), { recursive: true });
    await rename(at("Fleet/MV 3"), at("Fleet/Elsewhere/MV Three"));
    await look();
    expect((await load(code))?.location?.path).toBe("Fleet/Elsewhere/MV Three/Radio licence.txt");
    expect((await load(other.code))?.location).toMatchObject({ state: "stored", path: "Fleet/Elsewhere/MV Three/Safety.txt" });
    expect(await open()).toEqual([]);
    // The record's own folder went with them: what is filed next stands there too.
    expect((await certificate("V-3", "Tonnage")).path).toBe("Fleet/Elsewhere/MV Three/Tonnage.txt");
  });
  test("a removed file is adrift, and is put back, pointed to, or taken over as somebody decides", async () => {
    const papers = await Promise.all(["One", "Two", "Three"].map((t) => certificate("V-2", t)));
    await look();
    for (const p of papers) await rm(at(p.path));
    await look();
    expect((await open()).map((f) => f.kind)).toEqual(["removed", "removed", "removed"]);
    expect((await load(papers[0]?.code ?? ""))?.location).toMatchObject({ state: "outOfSync", why: "gone" });
    const idOf = async (i: number) => (await open()).find((f) => f.document?.code === papers[i]?.code)?.id ?? 0;
    expect(must(await decideFindings(admin, [await idOf(0)], "restore"))).toEqual({ done: 1, failures: [] });
    await placeDocument(papers[0]?.id ?? 0);
    expect(await readFile(at(papers[0]?.path ?? ""), "utf8")).toBe("V-2 One");
    await writeFile(at("Fleet/MV 2/the real one.txt"), "other bytes");
    expect(must(await decideFindings(admin, [await idOf(1)], "point", "Fleet/MV 2/the real one.txt")).done).toBe(1);
    expect(await load(papers[1]?.code ?? "")).toMatchObject({
      location: { state: "stored", path: "Fleet/MV 2/the real one.txt" },
      versions: [{}, {}],
    });
    expect(must(await decideFindings(admin, [await idOf(2)], "takeOver")).done).toBe(1);
    expect(await load(papers[2]?.code ?? "")).toBeNull();
    expect(await open()).toEqual([]);
    expect(must(await decideFindings(admin, [999_999], "restore")).done).toBe(0);
    expect(await listFindings(light, { state: "open", limit: 5, offset: 0 })).toMatchObject({ ok: false });
  });
  test("a file that comes and goes between two looks is missed all the same, whoever put it there", async () => {
    await look();
    await writeFile(at("Fleet/MV 2/guest.txt"), "put there and taken away");
    await look();
    await rm(at("Fleet/MV 2/guest.txt"));
    await look();
    expect((await open()).map((f) => f.document?.title)).toEqual(["guest"]);
    const ours = await certificate("V-2", "Short stay");
    await rm(at(ours.path));
    await look();
    const gone = await open();
    expect(gone.map((f) => [f.kind, f.document?.title]).sort()).toEqual([
      ["removed", "Short stay"],
      ["removed", "guest"],
    ]);
    expect(
      must(
        await decideFindings(
          admin,
          gone.map((f) => f.id),
          "takeOver",
        ),
      ).done,
    ).toBe(2);
  });
  test("where changes are asked about, a changed file waits for a decision, and ours can be put back", async () => {
    must(
      await putConnection(
        admin,
        KEY,
        connectionInputSchema.parse({ label: "Company folders", kind: "disk", options: { takesChanges: false } }),
      ),
    );
    await new Promise((resolve) => setTimeout(resolve, 2100));
    const { code, id, path: place } = await certificate("V-2", "Asked");
    await look();
    await writeFile(at(place), "not ours");
    await look();
    expect(await load(code)).toMatchObject({ location: { state: "outOfSync", why: "changed" }, versions: [{}] });
    const found = (await open())[0];
    expect(found).toMatchObject({ kind: "changed", document: { code } });
    must(await decideFindings(admin, [found?.id ?? 0], "restore"));
    await placeDocument(id);
    expect(await readFile(at(place), "utf8")).toBe("V-2 Asked");
    must(
      await putConnection(
        admin,
        KEY,
        connectionInputSchema.parse({ label: "Company folders", kind: "disk", options: { takesChanges: true } }),
      ),
    );
    await new Promise((resolve) => setTimeout(resolve, 2100));
  });
  test("a new folder that fits a record is offered, and its files come once that is agreed", async () => {
    await putRecord(admin, "MF", "vessel", "V-9", { title: "MV Nine", fields: { name: "MV Nine" } });
    await mkdir(at("Fleet/MV Nine"), { recursive: true });
    await writeFile(at("Fleet/MV Nine/Certificate of class.txt"), "nine");
    await look();
    expect(await papersOf("V-9")).toEqual([]);
    const offer = (await open()).find((f) => f.kind === "folder");
    expect(offer).toMatchObject({ path: "Fleet/MV Nine", record: { key: "V-9" } });
    must(await decideFindings(admin, [offer?.id ?? 0], "take"));
    await look();
    expect((await papersOf("V-9")).map((p) => [p.title, p.documentType])).toEqual([["Certificate of class", "certificate"]]);
  });
  test("a repository that is not plugged in sets nothing adrift, and what waits is placed when it is back", async () => {
    const before = (await db().execute<{ n: number }>(sql`select count(*)::int as n from placement where state = 'stored'`)).rows[0]?.n;
    await rename(at(""), `${at("").replace(/\/$/, "")}-away`);
    await mkdir(at(""));
    await scanConnection(KEY);
    const id = await takeText(admin, "waits.txt", "waits for the repository");
    const filed = must(await fileAway(admin, id, { documentType: "certificate", title: "Waits", clips: [clip("V-1")] }));
    await expect(placeDocument(Number(filed.code.slice(3)))).rejects.toMatchObject({ code: "repository-unreachable" });
    expect((await load(filed.code))?.location).toMatchObject({ state: "waiting", why: "repository-unreachable" });
    expect(await readdir(at(""))).toEqual([]);
    await rm(at(""), { recursive: true });
    await rename(`${at("").replace(/\/$/, "")}-away`, at(""));
    expect((await db().execute<{ n: number }>(sql`select count(*)::int as n from placement where state = 'stored'`)).rows[0]?.n).toBe(
      before,
    );
    await placeDocument(Number(filed.code.slice(3)));
    expect((await load(filed.code))?.location).toMatchObject({ state: "stored", why: null });
  });
});

describe("Proof and local copies", () => {
  test("placements are proven again, those proven longest ago first; a silent change of bytes is found", async () => {
    const { code, path: place } = await certificate("V-1", "Silent", "aaaa");
    const was = await stat(at(place));
    await writeFile(at(place), "bbbb");
    await utimes(at(place), was.atime, was.mtime);
    await scanConnection(KEY);
    expect((await load(code))?.versions).toHaveLength(1);
    await db().execute(sql`update placement set checked_at = now() - interval '10 days' where document_id = ${Number(code.slice(3))}`);
    expect(await proveSome(1)).toMatchObject({ differs: 1 });
    for (const { id } of (await db().execute<{ id: number }>(sql`select id from finding where state = 'settling'`)).rows)
      await takeFound(id);
    expect((await load(code))?.versions).toHaveLength(2);
    expect((await proveSome(5)).proved).toBe(5);
  });
  test("a local copy goes only after its placement was read back; then the document is read from the repository, and back it comes before it leaves there", async () => {
    const { code, path: place, id } = await certificate("V-1", "Far", "kept only far away");
    const sha256 = parseSha256((await load(code))?.location?.sha256 ?? "");
    must(
      await putConnection(
        admin,
        KEY,
        connectionInputSchema.parse({ label: "Company folders", kind: "disk", options: { keepLocalDays: 0 } }),
      ),
    );
    await new Promise((resolve) => setTimeout(resolve, 2100));
    expect(await releaseLocal()).toBeGreaterThan(0);
    expect(await landingStore().sizeOf(sha256)).toBeNull();
    expect(await readFile(await localFile(sha256), "utf8")).toBe("kept only far away");
    await rm(path.join(world.dataFolder, "fetched"), { recursive: true, force: true });
    await rename(at(place), at(`${place}.away`));
    await expect(localFile(sha256)).rejects.toThrow();
    await rename(at(`${place}.away`), at(place));
    must(await unfile(admin, codeOf(code)));
    expect(await landingStore().sizeOf(sha256)).toBe("kept only far away".length);
    expect(id).toBeGreaterThan(0);
    must(
      await putConnection(
        admin,
        KEY,
        connectionInputSchema.parse({ label: "Company folders", kind: "disk", options: { keepLocalDays: null } }),
      ),
    );
    await new Promise((resolve) => setTimeout(resolve, 2100));
  });
});

describe("Changing a document or a record moves it", () => {
  test("another title, type or record: said first, then carried out, with the new place", async () => {
    const { code, path: place } = await certificate("V-1", "Wrong name");
    const change = (wish: Record<string, unknown>) => changeDocument(admin, codeOf(code), changeSchema.parse(wish));
    const would = must(await change({ title: "Right name", dryRun: true }));
    expect(would.move).toMatchObject({ from: place, to: "Fleet/MV 1/Right name.txt", state: "planned" });
    expect((await load(code))?.title).toBe("Wrong name");
    expect(must(await change({ title: "Right name" })).move).toMatchObject({ to: "Fleet/MV 1/Right name.txt", state: "stored" });
    expect(await readFile(at("Fleet/MV 1/Right name.txt"), "utf8")).toBe("V-1 Wrong name");
    await putRecord(admin, "MF", "vessel", "V-20", { title: "MV Twenty", fields: { name: "MV Twenty" } });
    expect(must(await change({ clips: [clip("V-20"), clip("V-1")] })).move?.to).toBe("Fleet/MV Twenty/Right name.txt");
    expect((await papersOf("V-20")).map((p) => p.code)).toEqual([code]);
    expect(must(await change({ documentType: "letter" })).move).toBeNull();
    expect((await load(code))?.documentType).toBe("letter");
    expect(await change({ properties: { documentDate: "soon" } })).toMatchObject({ ok: false, refusal: { code: "bad-input" } });
    expect(await change({ clips: [clip("V-404")] })).toMatchObject({ ok: false, refusal: { code: "unknown-record" } });
    expect(await changeDocument(light, codeOf(code), changeSchema.parse({ title: "Mine" }))).toMatchObject({ ok: false });
  });
  test("a renamed record says that its folder is out of step, and moves it when asked", async () => {
    await putRecord(admin, "MF", "vessel", "V-20", { title: "MV Score", fields: { name: "MV Score" } });
    expect((await loadRecordPage(admin, "vessel", "V-20", "MF"))?.outOfStep).toEqual({
      from: "Fleet/MV Twenty",
      to: "Fleet/MV Score",
      documents: 1,
    });
    expect(must(await moveRecordFolder(admin, "vessel", "V-20", "MF")).move).toMatchObject({ path: "Fleet/MV Score", state: "done" });
    expect((await loadRecordPage(admin, "vessel", "V-20", "MF"))?.outOfStep).toBeNull();
    expect(must(await moveRecordFolder(admin, "vessel", "V-20", "MF")).move).toBeNull();
    expect(await moveRecordFolder(light, "vessel", "V-20", "MF")).toMatchObject({ ok: false });
  });
});

describe("Shelves and further places", () => {
  test("a document stands on a shelf too, stored once, and the shelf can be moved with it", async () => {
    const { code } = await certificate("V-1", "On show");
    const shelf = must(await makeShelf(admin, { connection: KEY, path: "Shelves/Minutes", company: "MF", isConfidential: false }));
    expect(await makeShelf(admin, { connection: KEY, path: "shelves/minutes", company: "MF", isConfidential: false })).toMatchObject({
      refusal: { code: "name-taken" },
    });
    expect(await makeShelf(light, { connection: KEY, path: "Mine", company: "MF", isConfidential: false })).toMatchObject({
      refusal: { code: "not-allowed" },
    });
    must(await putOnShelf(admin, codeOf(code), shelf.id, true));
    await carryPointers();
    expect(await readFile(at("Shelves/Minutes/On show.url"), "utf8")).toContain(`/documents/${code}`);
    expect((await load(code))?.shelves).toEqual([shelf.id]);
    await look();
    expect(await open()).toEqual([]);
    expect(must(await changeShelf(admin, shelf.id, { path: "Shelves/Board/Minutes" })).path).toBe("Shelves/Board/Minutes");
    expect(await readdir(at("Shelves/Board/Minutes"))).toEqual(["On show.url"]);
    must(await putOnShelf(admin, codeOf(code), shelf.id, false));
    await carryPointers();
    expect(await readdir(at("Shelves/Board/Minutes"))).toEqual([]);
  });
  test("a document of no record is filed on a shelf, and only for those who may use it", async () => {
    const shelf = must(await makeShelf(admin, { connection: KEY, path: "Shelves/Drawings", company: "MF", isConfidential: true }));
    const filing = { documentType: "drawing", clips: [], shelf: shelf.id, title: "General arrangement" };
    const first = must(await fileAway(admin, await takeText(admin, "ga.txt", "plan of decks"), filing));
    expect(first.path).toBe("Shelves/Drawings/General arrangement.txt");
    await placeDocument(Number(first.code.slice(3)));
    expect(await load(first.code)).toMatchObject({ clips: [], location: { state: "stored" } });
    const second = must(await fileAway(admin, await takeText(admin, "ga2.txt", "another plan"), filing));
    expect(second.path).toBe("Shelves/Drawings/General arrangement (2).txt");
    const mine = await takeText(light, "mine.txt", "light user's plan");
    expect(await fileAway(light, mine, filing)).toMatchObject({ ok: false });
    expect(await loadDocument(light, codeOf(first.code))).toBeNull();
    expect(await fileAway(admin, await takeText(admin, "none.txt", "nowhere"), { documentType: "drawing", clips: [] })).toMatchObject({
      refusal: { code: "no-clip" },
    });
    must(await unfile(admin, codeOf(first.code)));
  });
  test("a new version is called by its number where the rule says so, and the old file gives way", async () => {
    const rule = (await loadRules()).get("vessel");
    if (!rule) throw new Error("no rule");
    must(await saveRule(admin, "vessel", { ...rule.rule, fileNames: { drawing: "{title} v{version}" } }, null));
    const filing = { documentType: "drawing", clips: [clip("V-1")], title: "Tank plan" };
    const first = await fileText(admin, "t.txt", "tanks one", filing);
    expect(first.path).toBe("Fleet/MV 1/Tank plan v1.txt");
    const second = must(await fileAway(admin, await takeText(admin, "t2.txt", "tanks two"), { ...filing, onSameName: "version" }));
    expect(second.path).toBe("Fleet/MV 1/Tank plan v2.txt");
    await placeDocument(first.id);
    expect(await readFile(at("Fleet/MV 1/Tank plan v2.txt"), "utf8")).toBe("tanks two");
    await expect(readFile(at("Fleet/MV 1/Tank plan v1.txt"))).rejects.toThrow();
    must(await saveRule(admin, "vessel", rule.rule, null));
  });
  test("in the folders of further records a link leads to the one file, where the connection is set so", async () => {
    must(
      await putConnection(
        admin,
        KEY,
        connectionInputSchema.parse({ label: "Company folders", kind: "disk", options: { furtherPlaces: "link" } }),
      ),
    );
    const filed = await fileText(admin, "both.txt", "for both", {
      documentType: "certificate",
      title: "Both",
      clips: [clip("V-1"), clip("V-2")],
    });
    await carryPointers();
    expect(filed.path).toBe("Fleet/MV 1/Both.txt");
    expect(await readFile(at("Fleet/MV 2/Both.txt"), "utf8")).toBe("for both");
    await look();
    expect(await papersOf("V-2")).toEqual(expect.arrayContaining([expect.objectContaining({ code: filed.code })]));
    expect((await papersOf("V-2")).filter((p) => p.title === "Both")).toHaveLength(1);
    // Called as its document is, and leading to where that is now, whichever of the two folders moves.
    must(await changeDocument(admin, codeOf(filed.code), changeSchema.parse({ title: "Both of them" })));
    for (let i = 0; i < 2; i++) await carryPointers();
    expect(await inFolder("Fleet/MV 2", "Both")).toEqual(["Both of them.txt"]);
    expect(await readFile(at("Fleet/MV 2/Both of them.txt"), "utf8")).toBe("for both");
    for (const [key, name] of [
      ["V-1", "MV One"],
      ["V-2", "MV Two"],
    ] as const) {
      await putRecord(admin, "MF", "vessel", key, { title: name, fields: { name } });
      must(await moveRecordFolder(admin, "vessel", key, "MF"));
    }
    await carryPointers();
    expect(await readFile(at("Fleet/MV Two/Both of them.txt"), "utf8")).toBe("for both");
    await look();
    expect((await papersOf("V-2")).filter((p) => p.title.startsWith("Both"))).toHaveLength(1);
    // Another choice for the connection holds for what stands there already.
    await choose("pointer");
    expect(await inFolder("Fleet/MV Two", "Both")).toEqual(["Both of them.url"]);
    expect(await readFile(at("Fleet/MV Two/Both of them.url"), "utf8")).toContain(`/documents/${filed.code}`);
    await choose("none");
    expect(await inFolder("Fleet/MV Two", "Both")).toEqual([]);
    await choose("link");
    expect(await inFolder("Fleet/MV Two", "Both")).toEqual(["Both of them.txt"]);
    must(await unfile(admin, codeOf(filed.code)));
    await carryPointers();
    expect(await inFolder("Fleet/MV Two", "Both")).toEqual([]);
    for (const [key, name] of [
      ["V-1", "MV 1"],
      ["V-2", "MV 2"],
    ] as const) {
      await putRecord(admin, "MF", "vessel", key, { title: name, fields: { name } });
      must(await moveRecordFolder(admin, "vessel", key, "MF"));
    }
  });
  const inFolder = async (folder: string, begins: string) => (await readdir(at(folder))).filter((n) => n.startsWith(begins)).sort();
  const choose = async (furtherPlaces: "none" | "link" | "pointer") => {
    const input = connectionInputSchema.parse({ label: "Company folders", kind: "disk", options: { furtherPlaces } });
    must(await putConnection(admin, KEY, input));
    await rewritePointers(KEY);
    for (let i = 0; i < 2; i++) await carryPointers();
  };
});

describe("The tree and the locations", () => {
  test("show levels with their counts, and to each person only what they may see", async () => {
    const roots = await listTree(admin, { path: "" });
    expect(roots.items).toMatchObject([{ kind: "connection", name: "Company folders" }]);
    const top = await listTree(admin, { connection: KEY, path: "" });
    expect(top.items.map((n) => n.name)).toEqual(expect.arrayContaining(["Fleet", "Shelves"]));
    const fleet = await listTree(admin, { connection: KEY, path: "Fleet" });
    expect(fleet.items.find((n) => n.name === "MV 1")).toMatchObject({ kind: "record", record: { key: "V-1" }, state: "stored" });
    const vessel = await listTree(admin, { connection: KEY, path: "Fleet/MV 1" });
    expect(vessel.items.some((n) => n.kind === "document" && n.name === "Class.txt")).toBe(true);
    await putRecord(admin, "MF", "crewMember", "E-1", { title: "Rona Firth", fields: { name: "Rona Firth" } });
    await fileText(admin, "contract.txt", "contract", {
      documentType: "crewContract",
      title: "Contract",
      clips: [{ company: "MF", type: "crewMember", key: "E-1" }],
    });
    expect((await listTree(light, { connection: KEY, path: "" })).items.map((n) => n.name)).not.toContain("Crew");
    const all = await listLocations(admin, { sort: "documents", down: true, limit: 100, offset: 0 });
    expect(all.items[0]?.documents).toBeGreaterThanOrEqual(all.items.at(-1)?.documents ?? 0);
    expect(
      (await listLocations(light, { sort: "path", down: false, limit: 100, offset: 0 })).items.map((l) => l.record.type),
    ).not.toContain("crewMember");
    expect((await listLocations(admin, { q: "rona", sort: "path", down: false, limit: 5, offset: 0 })).total).toBe(1);
  });
});

describe("Connections", () => {
  test("are checked before they are used, keep their secret to themselves, and get folders made with every failure listed", async () => {
    const folder = path.join(world.dataFolder, "second");
    await mkdir(folder);
    expect(
      await putConnection(light, "second", connectionInputSchema.parse({ label: "x", kind: "disk", settings: { folder } })),
    ).toMatchObject({ refusal: { code: "not-allowed" } });
    expect(
      await putConnection(admin, "second", connectionInputSchema.parse({ label: "x", kind: "disk", settings: { folder: "../etc" } })),
    ).toMatchObject({
      refusal: { code: "bad-input" },
    });
    expect(
      await putConnection(
        admin,
        "far",
        connectionInputSchema.parse({ label: "x", kind: "webdav", settings: { address: "http://127.0.0.1:1", user: "a" } }),
      ),
    ).toMatchObject({
      refusal: { code: "no-secret" },
    });
    must(
      await putConnection(
        admin,
        "far",
        connectionInputSchema.parse({
          label: "Far",
          kind: "webdav",
          settings: { address: "http://127.0.0.1:1", user: "a" },
          secret: "let me in",
        }),
      ),
    );
    expect(must(await checkConnection(admin, "far"))).toMatchObject({
      passed: false,
      steps: [{ step: "reach", outcome: "failed", why: "repository-unreachable" }, ...Array(7).fill({ outcome: "skipped" })],
    });
    expect(await keepSetUp(admin, "far", null)).toMatchObject({ refusal: { code: "not-proven" } });
    const listed = must(await listConnections(admin)).items.find((c) => c.key === "far");
    expect(listed).toMatchObject({ hasSecret: true, setUp: { step: "check" } });
    expect(JSON.stringify(listed)).not.toContain("let me in");
    const kept = (await db().execute<{ secret: string }>(sql`select secret from connection where key = 'far'`)).rows[0]?.secret ?? "";
    expect(kept).not.toContain("let me in");
    expect(openSecret(kept, "connection far")).toBe("let me in");
    expect(openSecret(kept, "connection near")).toBeNull();
    expect(
      openSecret(
        lockSecret("ä", "x").replace(/.$/, (c) => (c === "A" ? "B" : "A")),
        "x",
      ),
    ).toBeNull();
    must(await putConnection(admin, "second", connectionInputSchema.parse({ label: "Second", kind: "disk", settings: { folder } })));
    expect(must(await checkConnection(admin, "second")).passed).toBe(true);
    must(await keepSetUp(admin, "second", null));
    await putRecord(admin, "MF", "stockItem", "ST-1", { title: "Flares", fields: { name: "Flares" } });
    await putRecord(admin, "MF", "stockItem", "ST-2", { title: "Rafts", fields: { name: "Rafts" } });
    await mkdir(at("Stores"), { recursive: true });
    await writeFile(at("Stores/Rafts ST-2"), "a file in the way");
    const { job } = must(await beginProvision(admin, { recordTypes: ["stockItem"], connection: null }));
    await provision(job);
    const run = async (id: string) =>
      (
        await db().execute<{ state: string; done: number; failed: number; failures: { what: string; why: string }[] }>(
          sql`select * from job_run where id = ${id}`,
        )
      ).rows[0];
    expect(await run(job)).toMatchObject({
      state: "done",
      done: 1,
      failed: 1,
      failures: [{ what: "ST-2 Rafts", why: "a file of that name stands there" }],
    });
    await rm(at("Stores/Rafts ST-2"));
    const again = must(await beginProvision(admin, { recordTypes: [], connection: null, again: job }));
    await provision(again.job);
    expect(await run(again.job)).toMatchObject({ done: 1, failed: 0 });
    expect((await readdir(at("Stores"))).sort()).toEqual(["Flares ST-1", "Rafts ST-2"]);
  });
});

describe("The filing plan as a file", () => {
  test("comes back as it went, shows what differs, and is refused whole when a part is wrong", async () => {
    for (const form of ["yaml", "json"] as const)
      expect(must(await comparePlanFile(admin, await exportPlan(form))).differences.filter((d) => d.kind !== "same")).toEqual([]);
    const text = (await exportPlan("yaml")).replace("rootFolder: Fleet", "rootFolder: Ships");
    expect(must(await comparePlanFile(admin, text)).differences.filter((d) => d.kind !== "same")).toMatchObject([
      { recordType: "vessel", changes: [{ part: "rootFolder", from: "Fleet", to: "Ships" }] },
    ]);
    const wrong = text.replace("{name|title}", "{nothing}");
    expect(must(await comparePlanFile(admin, wrong)).errors.length).toBeGreaterThan(0);
    expect(await importPlanFile(admin, wrong)).toMatchObject({ refusal: { code: "bad-input" } });
    expect(must(await importPlanFile(admin, text)).saved).toEqual(["vessel"]);
    expect(await exportPlan("yaml")).toContain("rootFolder: Ships");
    for (const bad of ["rules: [", "just words", "rules: {vessel: 5}", `a: &a [x]\nrules: ${"*a ".repeat(3)}`])
      expect(await comparePlanFile(admin, bad)).toMatchObject({ ok: false, refusal: { code: "bad-input" } });
    expect(await comparePlanFile(light, text)).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
  });
});
