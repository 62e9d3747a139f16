import { execFile } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import { promisify } from "node:util";
import { eq, sql } from "drizzle-orm";
import type { ArrivalId } from "#core/shared/brand.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { putBack } from "../bench/put-back.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { lookAt, makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import { contentPage } from "../documents/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { analysePages } from "../reading/analyse-pages.ts";
import { analyseSooner, priorityOfPages, enqueueAnalysis } from "../reading/enqueue-analysis.ts";
import { endScanWish, loadScanWish, wishScan } from "../ways-in/scan-wish.ts";
import { claim } from "./claim.ts";
import { analyseFurther } from "./finish-reading.ts";
import { loadArrival } from "./list-arrivals.ts";
import { readArrival } from "./read-arrival.ts";
import { landFile, takeIn } from "./receive.ts";
import { sayAbout } from "./say-about.ts";
import { arrival } from "./tables.ts";
import { unlock } from "./unlock.ts";

const run = promisify(execFile);
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let light: Actor;
const booking = { type: "freightBooking", key: "B-1", company: "MF" };
beforeAll(async () => {
  world = await makeSetUpDatabase();
  [admin, clerk, light] = (await Promise.all(
    ["isla.rowe", "tam.corrigall", "pell.ashby"].map((n) => actorByMail(`${n}@merrowick.example`)),
  )) as [Actor, Actor, Actor];
  await putRecord(admin, "MF", "freightBooking", "B-1", { title: "Fish to Halven" });
  await putRecord(admin, "MF", "purchaseOrder", "PO-1", { title: "Fuel" });
});
afterAll(() => world.end());
const shaOf = async (id: string) => parseSha256((await db().select().from(arrival).where(eq(arrival.id, id)))[0]?.sha256 ?? "");

describe("Whoever sent a document and may not file it", () => {
  test("says what it is and which record it belongs to, of what they may see; the clerk finds it so", async () => {
    const id = await takeText(light, "list.txt", "a list", { queue: "quay-office" });
    must(await sayAbout(light, id, { documentType: "packingList", record: booking }));
    expect(await loadArrival(clerk, id)).toMatchObject({
      isMine: false,
      tied: { key: "B-1" },
      proposedType: { type: "packingList", certainty: 1 },
    });
    expect(await loadArrival(light, id)).toMatchObject({ isMine: true, tied: { key: "B-1" } });
    // What they may not see answers as what is not there.
    expect(await sayAbout(light, id, { record: { type: "purchaseOrder", key: "PO-1", company: "MF" } })).toMatchObject({
      refusal: { code: "unknown-record" },
    });
    expect(await sayAbout(light, id, { documentType: "supplierInvoice" })).toMatchObject({ refusal: { code: "unknown-type" } });
    must(await sayAbout(light, id, { record: null }));
    expect((await loadArrival(light, id))?.tied).toBeNull();
  });
  test("says nothing of what somebody else sent", async () => {
    const id = await takeText(admin, "other.txt", "x", { queue: "quay-office" });
    expect(await sayAbout(light, id, { documentType: "packingList" })).toMatchObject({ refusal: { code: "not-found" } });
  });
});

describe("A locked PDF", () => {
  const locked = async (): Promise<ArrivalId> => {
    const [open, shut] = [path.join(world.dataFolder, "open.pdf"), path.join(world.dataFolder, "shut.pdf")];
    await writeFile(open, await makePaper(`Secret list ${Date.now()}`, "overleaf"));
    await run("qpdf", ["--encrypt", "gannet 7", "owner", "256", "--", open, shut]);
    return takeText(clerk, "shut.pdf", await readFile(shut), { queue: "payables" });
  };
  test("is opened with its password: a copy is read, the original stays in the register and can be put back; twice is once", async () => {
    const id = await locked();
    expect(await loadArrival(clerk, id)).toMatchObject({ state: "failed", problem: { code: "locked" } });
    expect(await unlock(clerk, id, "wrong")).toMatchObject({ refusal: { code: "wrong-password" } });
    expect(await loadArrival(clerk, id)).toMatchObject({ state: "failed" });
    const { arrival: copy } = must(await unlock(clerk, id, "gannet 7"));
    expect(must(await unlock(clerk, id, "gannet 7")).arrival).toBe(copy);
    await readArrival(copy);
    await lookAt(copy);
    expect(await loadArrival(clerk, copy)).toMatchObject({ state: "ready", pages: 2, parent: id, fileName: "shut.pdf" });
    expect(await loadArrival(clerk, id)).toMatchObject({ state: "split", endReason: "opened with its password" });
    // The password stands nowhere in what is kept.
    const { rows } = await db().execute<{ n: number }>(
      sql`select count(*)::int as n from timeline_line where details::text like '%gannet%'`,
    );
    expect(rows[0]?.n).toBe(0);
    must(await putBack(clerk, id));
    expect(await loadArrival(clerk, id)).toMatchObject({ state: "failed" });
    expect(must(await unlock(clerk, id, "gannet 7")).arrival).toBe(copy);
    expect((await loadArrival(clerk, copy))?.state).toBe("waiting");
  });
  test("that is not there for a person, or is not locked, is not opened", async () => {
    expect(await unlock(light, await locked(), "gannet 7")).toMatchObject({ refusal: { code: "not-found" } });
    const plain = await takeText(clerk, "plain.pdf", await makePaper("plain enough"), { queue: "payables" });
    expect(await unlock(clerk, plain, "x")).toMatchObject({ refusal: { code: "stale" } });
  });
});

describe("Scanning to a record", () => {
  const scanned = async (source: string, queue = "payables", company?: string): Promise<ArrivalId> => {
    const landed = must(await landFile(Readable.from([Buffer.from(`batch ${Math.random()}`)])));
    return must(await takeIn(admin, landed, { fileName: "batch.pdf", queue, source, ...(company ? { company } : {}) })).id;
  };
  const tiedTo = async (id: ArrivalId) => (await loadArrival(admin, id))?.tied?.key ?? null;
  test("ties the next batch of the chosen scanner, and only that one", async () => {
    const wish = must(await wishScan(clerk, booking, "payables"));
    expect(await tiedTo(await scanned("mail"))).toBeNull();
    expect(await tiedTo(await scanned("scanner", "general"))).toBeNull();
    const id = await scanned("scanner");
    expect(await tiedTo(id)).toBe("B-1");
    expect(await loadScanWish(clerk, wish.id)).toMatchObject({ state: "arrived", arrival: id });
    expect(await tiedTo(await scanned("scanner"))).toBeNull();
    expect(await loadScanWish(light, wish.id)).toBeNull();
  });
  test("two do not wait for the same scanner; who stops, or waits longer than five minutes, ties nothing", async () => {
    const wish = must(await wishScan(clerk, booking, "payables"));
    expect(await wishScan(admin, booking, "payables")).toMatchObject({ refusal: { code: "claimed", detail: "Tam Corrigall" } });
    expect(must(await endScanWish(clerk, wish.id)).state).toBe("over");
    expect(await tiedTo(await scanned("folder"))).toBeNull();
    const late = must(await wishScan(admin, booking, "payables"));
    await db().execute(sql`update scan_wish set until = now() - interval '1 second' where id = ${late.id}`);
    expect(await tiedTo(await scanned("folder"))).toBeNull();
    expect((await loadScanWish(admin, late.id))?.state).toBe("over");
  });
  test("is refused for a record or a queue that is not the person's", async () => {
    expect(await wishScan(light, { type: "purchaseOrder", key: "PO-1" }, "payables")).toMatchObject({ refusal: { code: "not-found" } });
    expect(await wishScan(clerk, booking, "no such queue")).toMatchObject({ refusal: { code: "unknown-queue" } });
  });
});

describe("Reading long documents", () => {
  test.each([
    [1, 0],
    [2, 1],
    [12, 3],
    [260, 8],
    [1_000_000, 12],
  ])("%i pages have priority %i: shorter ones go first", (pages, priority) => expect(priorityOfPages(pages)).toBe(priority));
  const priorityOf = async (sha256: string) =>
    (await db().execute<{ priority: number }>(sql`select priority from graphile_worker.jobs where key = ${`look:${sha256}`}`)).rows[0]
      ?.priority;
  test("a document that somebody opens goes to the front, whatever its length", async () => {
    const id = await takeText(clerk, "long.pdf", await makePaper(...Array.from({ length: 9 }, (_, i) => `long ${i} ${Math.random()}`)), {
      queue: "payables",
    });
    const sha256 = await shaOf(id);
    expect(await priorityOf(sha256)).toBe(3);
    await db().execute(sql`update arrival set state = 'reading' where id = ${id}`);
    must(await claim(clerk, id, false));
    expect(await priorityOf(sha256)).toBeLessThan(0);
    await db().execute(sql`select graphile_worker.remove_job(${`look:${sha256}`})`);
    await enqueueAnalysis(db(), sha256);
    expect(await priorityOf(sha256)).toBeLessThan(0);
    await analyseSooner(db(), "no such content");
  });
  test("is done in portions: the first and the last pages first, each findable at once, then the next portion has its turn", async () => {
    const id = await takeText(
      clerk,
      "portions.pdf",
      await makePaper(...Array.from({ length: 6 }, (_, i) => `portion ${i} ${Math.random()}`)),
      { queue: "payables" },
    );
    const sha256 = await shaOf(id);
    const looked = async () =>
      (await db().select().from(contentPage).where(eq(contentPage.sha256, sha256)).orderBy(contentPage.number))
        .filter((p) => p.ink !== null)
        .map((p) => p.number);
    expect(await analysePages(sha256, 4)).toBe(2);
    expect(await looked()).toEqual([1, 2, 5, 6]);
    await db().execute(sql`select graphile_worker.remove_job(${`look:${sha256}`})`);
    await analyseFurther(sha256);
    expect(await priorityOf(sha256)).toBe(1);
    expect(await analysePages(sha256, 4)).toBe(0);
    expect(await looked()).toEqual([1, 2, 3, 4, 5, 6]);
  });
});
