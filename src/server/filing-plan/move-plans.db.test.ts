import { mkdir, readdir, readFile, rm, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import { sql } from "drizzle-orm";
import type { FolderRule } from "#core/filing-plan/folder-rule.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { checkConnection, connectionInputSchema, keepSetUp, putConnection } from "../repository/manage-connections.ts";
import { freePort } from "../../../ops/processes.ts";
import { startStandIn, type StandIn } from "../../../standins/start-standin.ts";
import { endPlan } from "./end-plan.ts";
import { executeMovePlan, chunkSize } from "./execute-move-plan.ts";
import { stops } from "./plan-step.ts";
import { planOutOfStep, planRule } from "./begin-plan.ts";
import { computeMovePlan } from "./compute-move-plan.ts";
import { loadRules, saveRule } from "./load-rules.ts";
import { openRepository } from "./open-repository.ts";
import { actOnPlan } from "./act-on-plan.ts";
import { listSteps, loadPlan } from "./load-plan.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
});
afterAll(async () => {
  await world.end();
});

const root = (): string => path.join(world.dataFolder, "repository");
/** Every file of the repository with its text. */
async function onDisk(): Promise<Record<string, string>> {
  const files: Record<string, string> = {};
  for (const e of await readdir(root(), { recursive: true, withFileTypes: true })) {
    if (!e.isFile() || e.name.startsWith(".") || e.parentPath.includes(".taken-back")) continue;
    const file = path.join(e.parentPath, e.name);
    files[path.relative(root(), file)] = await readFile(file, "utf8");
  }
  return files;
}
/** What the database says: path → hash, and every folder by record. */
async function said(): Promise<unknown> {
  const places = await db().execute(sql`select document_id, connection, path, state, sha256 from place order by document_id`);
  const folders = await db().execute(
    sql`select record_id, connection, path, path_folded from folder where kind = 'record' or exists (select 1 from placement p where p.folder_id = folder.id) order by connection, path`,
  );
  return { places: places.rows, folders: folders.rows };
}
async function agree(): Promise<void> {
  const places = await db().execute<{ path: string }>(
    sql`select path from place where connection = 'companyFolders' and state = 'stored' order by path`,
  );
  const files = await onDisk();
  for (const { path: p } of places.rows) expect(Object.keys(files)).toContain(p);
  expect((await db().execute(sql`select 1 from placement where state = 'moving'`)).rows).toEqual([]);
  expect((await db().execute(sql`select 1 from steps_under_way`)).rows).toEqual([]);
}
const ruleOf = async (type: string): Promise<{ rule: FolderRule; version: number }> => {
  const found = (await loadRules(db(), [type])).get(type);
  if (!found) throw new Error("no rule");
  return found;
};
/** Draws a plan for a changed rule. */
async function draw(type: string, change: Partial<FolderRule>): Promise<string> {
  const { rule, version } = await ruleOf(type);
  const { id } = must(await planRule(admin, type, { ...rule, ...change }, version));
  await computeMovePlan(id);
  return id;
}
async function run(id: string): Promise<void> {
  while (await executeMovePlan(id));
}
const vessel = (key: string, name: string): Promise<number> => putRecord(admin, "MF", "vessel", key, { title: name, fields: { name } });
const certificate = (key: string, title: string) =>
  fileText(admin, `${title}.txt`, `${key} ${title}`, {
    documentType: "certificate",
    title,
    clips: [{ company: "MF", type: "vessel", key }],
  });

describe("A changed rule", () => {
  test("is drawn, shown, carried out and undone; nothing is there twice, and undone it is exactly as before", async () => {
    for (const n of [1, 2, 3]) {
      await vessel(`V-${n}`, `MV Number ${n}`);
      await certificate(`V-${n}`, "Class");
      await certificate(`V-${n}`, "Load line");
    }
    await mkdir(path.join(root(), "Fleet/MV Number 1/Photos"), { recursive: true });
    await writeFile(path.join(root(), "Fleet/MV Number 1/Photos/theirs.txt"), "somebody's own");
    const before = { disk: await onDisk(), said: await said() };
    const id = await draw("vessel", { rootFolder: "Ships/Ours", folderName: "{key} {name}" });
    const plan = must(await loadPlan(admin, id));
    expect(plan).toMatchObject({ state: "drawn", folders: 3, documents: 6, clashes: 0 });
    expect(await onDisk()).toEqual(before.disk);
    const { items } = must(await listSteps(admin, id, { limit: 50, after: -1, q: "number 2" }));
    expect(items).toMatchObject([{ from: "Fleet/MV Number 2", to: "Ships/Ours/V-2 MV Number 2", documents: 2, kind: "folder" }]);
    must(await actOnPlan(admin, id, "start"));
    await run(id);
    expect(must(await loadPlan(admin, id))).toMatchObject({ state: "done", done: 3, failed: 0 });
    const files = await onDisk();
    expect(files["Ships/Ours/V-1 MV Number 1/Class.txt"]).toBe("V-1 Class");
    // What others put into a folder goes along with it.
    expect(files["Ships/Ours/V-1 MV Number 1/Photos/theirs.txt"]).toBe("somebody's own");
    expect((await readdir(root())).includes("Fleet")).toBe(false);
    await agree();
    expect((await certificate("V-1", "New")).path).toBe("Ships/Ours/V-1 MV Number 1/New.txt");
    must(await actOnPlan(admin, id, "undo"));
    await run(id);
    expect(must(await loadPlan(admin, id)).state).toBe("undone");
    const { "Fleet/MV Number 1/New.txt": added, ...rest } = await onDisk();
    expect(added).toBe("V-1 New");
    expect(rest).toEqual(before.disk);
    expect((await ruleOf("vessel")).rule.rootFolder).toBe("Fleet");
    await agree();
  });
  test("that nothing moves for draws an empty plan", async () => {
    expect(must(await loadPlan(admin, await draw("vessel", { kind: "standing" }))).steps).toBe(0);
  });
  test("of file names and sub-folders moves single files, each to a name of its own", async () => {
    const id = await draw("vessel", { fileName: "{documentType}", subFolders: "documentType", fileNames: { certificate: "{record.key}" } });
    must(await actOnPlan(admin, id, "start"));
    await run(id);
    const names = Object.keys(await onDisk()).filter((p) => p.startsWith("Fleet/MV Number 1/Certificates/"));
    expect(names.sort()).toEqual(["V-1 (2).txt", "V-1 (3).txt", "V-1.txt"].map((n) => `Fleet/MV Number 1/Certificates/${n}`));
    await agree();
    must(await actOnPlan(admin, id, "undo"));
    await run(id);
    expect(Object.keys(await onDisk())).toContain("Fleet/MV Number 1/Class.txt");
    await agree();
  });
  test("cannot be saved over a rule that somebody changed meanwhile", async () => {
    const id = await draw("vessel", { rootFolder: "Elsewhere" });
    must(await saveRule(admin, "vessel", (await ruleOf("vessel")).rule, null));
    expect(await actOnPlan(admin, id, "start")).toMatchObject({ ok: false, refusal: { code: "stale" } });
    expect(must(await actOnPlan(admin, id, "drop")).state).toBe("dropped");
  });
});

describe("Changed records", () => {
  test("names that were swapped are swapped in the repository, over a name that nobody has", async () => {
    await vessel("V-1", "MV Number 2");
    await vessel("V-2", "MV Number 1");
    const { id } = must(await planOutOfStep(admin, ["vessel"]));
    await computeMovePlan(id);
    must(await actOnPlan(admin, id, "start"));
    await run(id);
    const files = await onDisk();
    expect(files["Fleet/MV Number 2/Class.txt"]).toBe("V-1 Class");
    expect(files["Fleet/MV Number 1/Class.txt"]).toBe("V-2 Class");
    await agree();
  });
  test("a renamed account takes along all that is beneath it in one rename", async () => {
    await putRecord(admin, "MF", "customerAccount", "C-1", { title: "Orrin", fields: { name: "Orrin" } });
    for (const key of ["B-1", "B-2"]) {
      await putRecord(admin, "MF", "freightBooking", key, {
        title: key,
        fields: { sailingDate: "2026-11-18" },
        parent: { type: "customerAccount", key: "C-1" },
      });
      await fileText(admin, "list.txt", key, {
        documentType: "packingList",
        title: "List",
        clips: [{ company: "MF", type: "freightBooking", key }],
      });
    }
    await putRecord(admin, "MF", "customerAccount", "C-1", { title: "Orrin Shellfish", fields: { name: "Orrin Shellfish" } });
    const { id } = must(await planOutOfStep(admin, ["customerAccount"]));
    await computeMovePlan(id);
    const steps = must(await listSteps(admin, id, { limit: 50, after: -1 })).items;
    expect(steps).toMatchObject([{ from: "Customers/Orrin C-1", to: "Customers/Orrin Shellfish C-1", documents: 2 }]);
    must(await actOnPlan(admin, id, "start"));
    await run(id);
    expect((await onDisk())["Customers/Orrin Shellfish C-1/Bookings/2026/B-2/List.txt"]).toBe("B-2");
    await agree();
    // Also with letters that the database orders otherwise than this language, there and back.
    for (const name of ["Orrin 🦞 & Öster", "Orrin"]) {
      await putRecord(admin, "MF", "customerAccount", "C-1", { title: name, fields: { name } });
      const next = must(await planOutOfStep(admin, ["customerAccount"]));
      await computeMovePlan(next.id);
      must(await actOnPlan(admin, next.id, "start"));
      await run(next.id);
      expect((await onDisk())[`Customers/${name} C-1/Bookings/2026/B-2/List.txt`]).toBe("B-2");
      await agree();
    }
  });
});

describe("What others did meanwhile", () => {
  test("a folder that stands in the way is a clash and is never overwritten; the rest goes on, and the clash can be tried again", async () => {
    await mkdir(path.join(root(), "Ships/MV Number 3"), { recursive: true });
    await writeFile(path.join(root(), "Ships/MV Number 3/theirs.txt"), "theirs");
    const id = await draw("vessel", { rootFolder: "Ships" });
    must(await actOnPlan(admin, id, "start"));
    await run(id);
    expect(must(await loadPlan(admin, id))).toMatchObject({ state: "done", done: 2, clashes: 1 });
    const trouble = must(await listSteps(admin, id, { limit: 5, after: -1, show: "trouble" })).items;
    expect(trouble).toMatchObject([{ state: "clash", why: "taken", from: "Fleet/MV Number 3" }]);
    await agree();
    await rm(path.join(root(), "Ships/MV Number 3"), { recursive: true });
    must(await actOnPlan(admin, id, "retry"));
    await run(id);
    expect(must(await loadPlan(admin, id))).toMatchObject({ done: 3, clashes: 0 });
    await agree();
    must(await actOnPlan(admin, id, "undo"));
    await run(id);
    await agree();
  });
  test("a file that somebody changed is a clash and stays where it is, with what they wrote", async () => {
    const file = path.join(root(), "Fleet/MV Number 3/Class.txt");
    await writeFile(file, "changed by hand");
    const id = await draw("vessel", { fileName: "{title} {code}" });
    must(await actOnPlan(admin, id, "start"));
    await run(id);
    expect(must(await listSteps(admin, id, { limit: 5, after: -1, show: "trouble" })).items).toMatchObject([{ why: "changed" }]);
    expect(await readFile(file, "utf8")).toBe("changed by hand");
    must(await actOnPlan(admin, id, "undo"));
    await run(id);
    await writeFile(file, "V-3 Class");
  });
});

describe("To another connection", () => {
  const standIns: StandIn[] = [];
  afterAll(async () => {
    for (const s of standIns) await s.stop();
  });
  test.each([
    ["webdav", { user: "amber" }, "clip"],
    ["bucket", { user: "S3RVER", bucket: "merrowick", region: "us-east-1" }, "S3RVER"],
  ] as const)(
    "each file is copied there, proven, and only then leaves; and back again: %s, with faults on",
    async (kind, more, secret) => {
      const standIn = await startStandIn(kind, { port: await freePort(), folder: path.join(world.dataFolder, `standin-${kind}`) });
      standIns.push(standIn);
      const key = `far${kind}`;
      must(
        await putConnection(
          admin,
          key,
          connectionInputSchema.parse({ label: kind, kind, settings: { address: standIn.url, root: "papers", ...more }, secret }),
        ),
      );
      expect(must(await checkConnection(admin, key)).passed).toBe(true);
      must(await keepSetUp(admin, key, null));
      for (const n of [1, 2]) {
        await putRecord(admin, "MF", "stockItem", `ST-${kind}-${n}`, { title: `Rafts ${n}`, fields: { name: `Rafts ${n}` } });
        for (const title of ["One", "Zwölf & 12"])
          await fileText(admin, `${title}.txt`, `${kind} ${n} ${title}`, {
            documentType: "batchCertificate",
            title,
            clips: [{ company: "MF", type: "stockItem", key: `ST-${kind}-${n}` }],
          });
      }
      const before = { disk: await onDisk(), said: await said() };
      const id = await draw("stockItem", { connection: key });
      expect(must(await loadPlan(admin, id)).clashes).toBe(0);
      await standIn.setFaults({ drops: 10 });
      must(await actOnPlan(admin, id, "start"));
      const persist = async (): Promise<void> => {
        for (let attempt = 0; attempt < 40; attempt++) {
          const over = await run(id).then(
            () => true,
            () => false,
          );
          if (over) return;
        }
        throw new Error("never over");
      };
      await persist();
      await standIn.setFaults({});
      const far = await openRepository(key);
      const there = await db().execute<{ path: string; sha256: string }>(
        sql`select path, sha256 from place where connection = ${key} and path like ${`%ST-${kind}-%`}`,
      );
      expect(there.rows).toHaveLength(4);
      for (const p of there.rows) expect(await far.hashOf(p.path)).toBe(p.sha256);
      expect(Object.keys(await onDisk()).filter((p) => p.includes(`ST-${kind}`))).toEqual([]);
      // A changed root folder there: whole folders are renamed where that is possible, else every file goes by itself.
      const second = await draw("stockItem", { rootFolder: "Chandlery" });
      must(await actOnPlan(admin, second, "start"));
      await run(second);
      const moved = await db().execute<{ path: string; sha256: string }>(sql`select path, sha256 from place where connection = ${key}`);
      for (const p of moved.rows) {
        expect(p.path).toMatch(/^Chandlery\//);
        expect(await far.hashOf(p.path)).toBe(p.sha256);
      }
      must(await actOnPlan(admin, second, "undo"));
      await run(second);
      must(await actOnPlan(admin, id, "undo"));
      await persist();
      expect({ disk: await onDisk(), said: await said() }).toEqual(before);
      await agree();
    },
    120_000,
  );
});

describe("Folders that leave one folder for another, with nothing else in it", () => {
  const inode = async (at: string): Promise<number> => (await stat(path.join(root(), at))).ino;
  const carry = async (act: "start" | "undo", id: string): Promise<void> => {
    must(await actOnPlan(admin, id, act));
    await run(id);
    await agree();
  };
  test("leave it together: it is renamed itself, there and back", async () => {
    const before = { disk: await onDisk(), said: await said(), inode: await inode("Fleet") };
    const id = await draw("vessel", { rootFolder: "Ships/Ours" });
    await carry("start", id);
    expect(await inode("Ships/Ours")).toBe(before.inode);
    expect(Object.keys(await onDisk()).filter((p) => p.startsWith("Fleet/"))).toEqual([]);
    await carry("undo", id);
    expect(await inode("Fleet")).toBe(before.inode);
    expect({ disk: await onDisk(), said: await said() }).toEqual({ disk: before.disk, said: before.said });
    expect((await readdir(root())).includes("Ships")).toBe(false);
  });
  test("leave it with the folders they stand in, unless one of those is a record's own", async () => {
    const before = await inode("Fleet");
    const grouped = await draw("vessel", { rootFolder: "Fleet/All" });
    await carry("start", grouped);
    // The new place is inside the old one: they go there one by one.
    expect(await inode("Fleet")).toBe(before);
    const all = await inode("Fleet/All");
    const id = await draw("vessel", { rootFolder: "Ships/All" });
    await carry("start", id);
    expect([await inode("Ships"), await inode("Ships/All")]).toEqual([before, all]);
    // Somebody's folder of their own in between stays where it is, and what stands in it comes out one by one.
    await db().execute(
      sql`insert into folder (connection, path, path_folded, kind, rule_stamp, company) values ('companyFolders', 'Ships/All', 'ships/all', 'shelf', '', 'MF')`,
    );
    await carry("undo", id);
    expect(await inode("Ships/All")).toBe(all);
    expect(await inode("Fleet/All")).not.toBe(all);
    await db().execute(sql`delete from folder where path = 'Ships/All'`);
    await rm(path.join(root(), "Ships"), { recursive: true });
    await carry("undo", grouped);
  });
  test("leave it one by one when something else stands in it, which stays", async () => {
    await writeFile(path.join(root(), "Fleet/theirs.txt"), "somebody's own");
    const id = await draw("vessel", { rootFolder: "Ships" });
    await carry("start", id);
    expect((await onDisk())["Fleet/theirs.txt"]).toBe("somebody's own");
    expect(Object.keys(await onDisk()).some((p) => p.startsWith("Ships/MV Number 1/"))).toBe(true);
    await carry("undo", id);
    await rm(path.join(root(), "Fleet/theirs.txt"));
  });
  test.each([
    ["together", 50, "steps together"],
    ["some at a time", 2, "one step"],
  ])(
    "stopped after every single thing that is written, and begun again, they end in the same place: %s",
    async (_, size, how) => {
      const start = { disk: await onDisk(), said: await said() };
      const usual = { ...chunkSize };
      Object.assign(chunkSize, { first: size, min: size, max: size });
      const heard: string[] = [];
      for (let stopAt = 1; ; stopAt++) {
        const id = await draw("vessel", { rootFolder: "Ships" });
        must(await actOnPlan(admin, id, "start"));
        let count = 0;
        stops.after = (what) => {
          heard.push(what);
          if (++count >= stopAt) throw new Error("killed here");
        };
        const finished = await run(id).then(
          () => true,
          () => false,
        );
        stops.after = null;
        await run(id);
        await agree();
        expect(Object.keys(await onDisk()).filter((p) => p.startsWith("Fleet/"))).toEqual([]);
        await carry("undo", id);
        expect({ disk: await onDisk(), said: await said() }).toEqual(start);
        if (finished) break;
      }
      Object.assign(chunkSize, usual);
      expect(heard).toContain(how);
    },
    120_000,
  );
  test("carried by several at once each is moved once, and nobody takes what another did for somebody else's", async () => {
    const start = { disk: await onDisk(), said: await said() };
    const usual = { ...chunkSize };
    Object.assign(chunkSize, { first: 1, min: 1, max: 1 });
    for (let round = 0; round < 6; round++) {
      const id = await draw("vessel", { rootFolder: "Ships" });
      must(await actOnPlan(admin, id, "start"));
      await Promise.all([run(id), run(id), run(id)]);
      const plan = must(await loadPlan(admin, id));
      expect(plan).toMatchObject({ state: "done", done: plan.steps, clashes: 0, failed: 0 });
      await agree();
      must(await actOnPlan(admin, id, "undo"));
      await Promise.all([run(id), run(id)]);
      expect({ disk: await onDisk(), said: await said() }).toEqual(start);
    }
    Object.assign(chunkSize, usual);
  }, 60_000);
  test("a record that has none yet gets its folder by the new rule while the others leave", async () => {
    const id = await draw("vessel", { rootFolder: "Ships" });
    must(await actOnPlan(admin, id, "start"));
    await vessel("V-9", "MV Number 9");
    const [placed] = await Promise.all([certificate("V-9", "Class"), run(id)]);
    expect(placed.path).toBe("Ships/MV Number 9/Class.txt");
    await agree();
    await carry("undo", id);
  });
});

test("a plan that is stopped when nothing is left to do stays stopped, and ends the way it was going when it may go on", async () => {
  await vessel("V-7", "MV Number 7");
  await certificate("V-7", "Class");
  const start = await onDisk();
  const id = await draw("vessel", { rootFolder: "Ships" });
  must(await actOnPlan(admin, id, "start"));
  await run(id);
  must(await actOnPlan(admin, id, "undo"));
  stops.after = (what) => {
    if (what === "empty folders cleared") throw new Error("killed here");
  };
  await expect(run(id)).rejects.toThrow("killed here");
  stops.after = null;
  must(await actOnPlan(admin, id, "stop"));
  await endPlan(id, true);
  expect(must(await loadPlan(admin, id)).state).toBe("stopped");
  must(await actOnPlan(admin, id, "undo"));
  await run(id);
  expect(must(await loadPlan(admin, id)).state).toBe("undone");
  expect(await onDisk()).toEqual(start);
  await agree();
});

test("stopped after every single thing that is written, and begun again, a plan ends in the same place; and so does its undoing (promise 4)", async () => {
  // Swaps, a chain, sub-folders and file names all at once.
  await vessel("V-1", "MV Number 1");
  await vessel("V-2", "MV Number 2");
  const back = must(await planOutOfStep(admin, ["vessel"]));
  await computeMovePlan(back.id);
  must(await actOnPlan(admin, back.id, "start"));
  await run(back.id);
  await vessel("V-1", "MV Number 2");
  await vessel("V-2", "MV Number 3");
  await vessel("V-3", "MV Number 1");
  const start = { disk: await onDisk(), said: await said() };
  const change = { fileName: "{documentType} {code}", subFolders: "documentType" } as const;
  const first = await draw("vessel", change);
  must(await actOnPlan(admin, first, "start"));
  await run(first);
  const end = { disk: await onDisk(), said: await said() };
  expect(end.disk).not.toEqual(start.disk);
  must(await actOnPlan(admin, first, "undo"));
  await run(first);
  expect({ disk: await onDisk(), said: await said() }).toEqual(start);

  let tried = 0;
  // Few at a time, so that more than one chunk is left under way.
  const usual = { ...chunkSize };
  Object.assign(chunkSize, { first: 2, min: 2, max: 2 });
  for (const way of ["there", "back"] as const) {
    for (let stopAt = 1; ; stopAt++) {
      const id = await draw("vessel", change);
      must(await actOnPlan(admin, id, "start"));
      if (way === "back") {
        await run(id);
        must(await actOnPlan(admin, id, "undo"));
      }
      let count = 0;
      stops.after = () => {
        // Once it is killed nothing that still runs beside gets any further either.
        if (++count >= stopAt) throw new Error("killed here");
      };
      const finished = await run(id).then(
        () => true,
        () => false,
      );
      stops.after = null;
      if (finished) break;
      tried++;
      await run(id);
      expect({ disk: await onDisk(), said: await said() }).toEqual(way === "there" ? end : start);
      await agree();
      if (way === "there") {
        must(await actOnPlan(admin, id, "undo"));
        await run(id);
        expect({ disk: await onDisk(), said: await said() }).toEqual(start);
      }
    }
    if (way === "there") {
      const id =
        (await db().execute<{ id: string }>(sql`select id from move_plan where state = 'done' order by made_at desc limit 1`)).rows[0]
          ?.id ?? "";
      must(await actOnPlan(admin, id, "undo"));
      await run(id);
    }
  }
  expect(tried).toBeGreaterThan(20);
  Object.assign(chunkSize, usual);
}, 600_000);
