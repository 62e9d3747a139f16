import { mkdir, readdir, readFile, rename, rm, symlink, utimes, writeFile } from "node:fs/promises";
import path from "node:path";
import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { listArrivals } from "../arrivals/list-arrivals.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadLimits, saveLimits } from "../settings/load-settings.ts";
import { listQueueMail, saveQueueFolder } from "./queue-ways.ts";
import { scanFolders, SETTLE_MS, type Settling } from "./watch-folders.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "purchaseOrder", "PO-6127", { title: "Bunkering" });
});
afterAll(() => world.end());

let clock = Date.now();
let settling: Settling = new Map();
/** Looks, lets the time pass in which a file settles, and looks again. */
async function look() {
  await scanFolders(settling, clock);
  clock += SETTLE_MS + 1;
  return scanFolders(settling, clock);
}
const watch = (queue: string, after: "keep" | "done" | "remove" | null) => saveQueueFolder(admin, queue, { after }).then(must);
const at = (queue: string, name = "") => path.join(world.dataFolder, "watched", queue, name);
async function put(queue: string, name: string, body: string): Promise<void> {
  await mkdir(path.dirname(at(queue, name)), { recursive: true });
  await writeFile(at(queue, name), body);
}
const came = async () => (await listArrivals(admin, { source: "folder", states: ["waiting"], limit: 200, offset: 0 })).items;
const names = async () => (await came()).map((a) => a.fileName).sort();
const left = async (queue: string) =>
  (await readdir(at(queue), { recursive: true, withFileTypes: true }))
    .filter((e) => e.isFile())
    .map((e) => path.relative(at(queue), path.join(e.parentPath, e.name)))
    .sort();

describe("Watched folders", () => {
  test("take what is put there once it is whole, with their sub-folders as hints; what stays is not taken again", async () => {
    await watch("payables", "keep");
    await put("payables", "plain.txt", "plain");
    await put("payables", "PO-6127/Delivery notes/slip.txt", "slip");
    expect(await look()).toMatchObject({ taken: 2, waiting: 0, away: [] });
    const slip = (await came()).find((a) => a.fileName === "slip.txt");
    expect(slip).toMatchObject({
      queue: "payables",
      tied: { key: "PO-6127" },
      proposedType: { type: "deliveryNote" },
      note: "PO-6127 / Delivery notes",
    });
    expect(await look()).toMatchObject({ taken: 0 });
    expect(await left("payables")).toEqual(["PO-6127/Delivery notes/slip.txt", "plain.txt"]);
    // The same name with other bytes is another document.
    await put("payables", "plain.txt", "plain, and more");
    expect(await look()).toMatchObject({ taken: 1 });
  });

  test("leave alone what is being written, hidden, a link, or called as programs call what they still write", async () => {
    await put("payables", "growing.txt", "a");
    await scanFolders(settling, clock);
    clock += SETTLE_MS + 1;
    await put("payables", "growing.txt", "a and more");
    expect(await scanFolders(settling, clock)).toMatchObject({ taken: 0, waiting: 1 });
    for (const name of [".hidden.txt", "half.pdf.part", "~$open.docx", "page.tmp"]) await put("payables", name, "no");
    await symlink("/etc/hostname", at("payables", "link.txt"));
    expect(await look()).toMatchObject({ taken: 1 });
    expect(await names()).toContain("growing.txt");
    expect((await names()).some((n) => /hidden|half|open|page|link/.test(n))).toBe(false);
  });

  test("move what was taken to done, beside what has its name there already", async () => {
    await watch("sales-desk", "done");
    await put("sales-desk", "May/a.txt", "first");
    await look();
    await put("sales-desk", "May/a.txt", "second");
    await look();
    expect(await left("sales-desk")).toEqual(["done/May/a (2).txt", "done/May/a.txt"]);
    expect(await readFile(at("sales-desk", "done/May/a (2).txt"), "utf8")).toBe("second");
    expect(await look()).toMatchObject({ taken: 0, waiting: 0 });
  });

  test("remove the original only after its bytes were read back from where they are kept", async () => {
    await watch("quay-office", "remove");
    await put("quay-office", "b.txt", "to go");
    await look();
    expect(await left("quay-office")).toEqual([]);
    const kept = (await came()).find((a) => a.fileName === "b.txt");
    expect(kept?.bytes).toBe("to go".length);
  });

  test("killed between the register and the original, nothing comes in twice and the original is dealt with", async () => {
    await watch("quay-office", "keep");
    await put("quay-office", "d.txt", "once");
    await look();
    const before = (await came()).length;
    // As it stands when the process died before it removed the original.
    await watch("quay-office", "remove");
    settling = new Map();
    await look();
    expect(await left("quay-office")).toEqual([]);
    expect((await came()).length).toBe(before);
    expect((await db().execute(sql`select 1 from watched_file where queue = 'quay-office'`)).rows).toEqual([]);
  });

  test("say of what is too large that it is not taken, once, and leave it where it is", async () => {
    const limits = await loadLimits();
    must(await saveLimits(admin, { ...limits, bytesMax: 1024 }));
    await put("payables", "huge.txt", "x".repeat(5000));
    expect(await look()).toMatchObject({ taken: 0, refused: 1 });
    expect(must(await listQueueMail(admin)).items.find((q) => q.key === "payables")?.refused).toEqual([
      { path: "huge.txt", why: "too-large" },
    ]);
    must(await saveLimits(admin, limits));
    // Touched again it is tried again.
    await utimes(at("payables", "huge.txt"), new Date(), new Date());
    expect(await look()).toMatchObject({ taken: 1, refused: 0 });
    expect(must(await listQueueMail(admin)).items.find((q) => q.key === "payables")?.refused).toEqual([]);
  });

  test("a folder that vanishes is said to be away, takes nothing from the others, and is taken up when it is back", async () => {
    await rename(path.join(world.dataFolder, "watched"), path.join(world.dataFolder, "gone"));
    await writeFile(path.join(world.dataFolder, "watched"), "a file in its place");
    expect((await scanFolders(settling, clock).catch(() => ({ away: ["all"] }))).away.length).toBeGreaterThan(0);
    await rm(path.join(world.dataFolder, "watched"));
    await rename(path.join(world.dataFolder, "gone"), path.join(world.dataFolder, "watched"));
    await put("sales-desk", "back.txt", "back");
    expect(await look()).toMatchObject({ taken: 1, away: [] });
  });

  test("two thousand at once come in, each once", async () => {
    await watch("crew-office", "done");
    await mkdir(at("crew-office"), { recursive: true });
    for (let i = 0; i < 2000; i++) await writeFile(at("crew-office", `n${i}.txt`), `number ${i}`);
    const looked = await look();
    expect(looked.taken).toBe(2000);
    const { rows } = await db().execute<{ n: number; d: number }>(
      sql`select count(*)::int as n, count(distinct sha256)::int as d from arrival where queue = 'crew-office'`,
    );
    expect(rows[0]).toEqual({ n: 2000, d: 2000 });
    expect((await left("crew-office")).length).toBe(2000);
    expect((await left("crew-office")).every((f) => f.startsWith("done/"))).toBe(true);
  }, 120_000);
});
