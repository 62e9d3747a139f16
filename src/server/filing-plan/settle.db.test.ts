import { readdir } from "node:fs/promises";
import path from "node:path";
import fc from "fast-check";
import { sql } from "drizzle-orm";
import type { FolderRule } from "#core/filing-plan/folder-rule.ts";
import { diskLimits, foldPath, legalName, utf8Bytes } from "#core/filing-plan/legal-name.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import { fileAway } from "../documents/file-away.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadRules, saveRule } from "./load-rules.ts";
import { placeDocument } from "./place-document.ts";
import { enterOwnFolder, settleFolder } from "./settle-folder.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
});
afterAll(async () => {
  await world.end();
});

/** Names that people and machines really give, and worse. */
const name = fc.oneof(
  fc.constantFrom(
    "Halven Timber",
    "halven timber",
    "HALVEN TIMBER.",
    "Halven  Timber ",
    "Hálven Timber",
    "Ha\u0301lven Timber",
    "con",
    "aux.txt",
    "..",
    "a/b\\c",
    "x".repeat(400),
    "Straße",
    "STRASSE",
    "\u202Etxt",
    "ﬁle",
    "file",
  ),
  fc.string({ unit: "grapheme", minLength: 1, maxLength: 40 }),
);
const setRule = async (type: string, change: Partial<FolderRule>): Promise<void> => {
  const known = (await loadRules()).get(type);
  if (!known) throw new Error("no rule");
  must(await saveRule(admin, type, { ...known.rule, ...change }, null));
};

test("whatever accounts are called, each has a legal folder of its own, and its documents stand in it (promises 4 and 5)", async () => {
  await setRule("customerAccount", { folderName: "{name}", tellApart: null });
  let round = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(name, { minLength: 2, maxLength: 7 }), async (names) => {
      round++;
      const keys = names.map((_, i) => `C-${round}-${i}`);
      // A title is never empty in a business system; what is only blanks is the key.
      for (const [i, key] of keys.entries()) {
        const clean = (names[i] ?? "").replaceAll("\0", "").trim() || key;
        await putRecord(admin, "MF", "customerAccount", key, { title: clean.slice(0, 300), fields: { name: clean.slice(0, 300) } });
      }
      const filed = await Promise.all(
        keys.map(async (key, i) =>
          fileAway(admin, await takeText(admin, `${i}.txt`, `${round} ${i}`), {
            documentType: "letter",
            title: "Same title",
            clips: [{ company: "MF", type: "customerAccount", key }],
          }),
        ),
      );
      const paths = filed.map((f) => must(f).path);
      for (const f of filed) await placeDocument(Number(must(f).code.slice(3)));
      const folders = paths.map((p) => foldPath(p.split("/").slice(0, -1)));
      expect(new Set(folders).size).toBe(names.length);
      for (const p of paths)
        for (const step of p.split("/")) {
          expect(utf8Bytes(step)).toBeLessThanOrEqual(diskLimits.nameBytesMax);
          expect(legalName(step, diskLimits)).toBe(step);
        }
    }),
    { numRuns: 12 },
  );
  // What the database says and what stands on disk is the same, to the letter.
  const said = (await db().execute<{ path: string }>(sql`select path from place where state = 'stored' order by path`)).rows
    .map((r) => r.path)
    .sort();
  const files = (await readdir(path.join(world.dataFolder, "repository"), { recursive: true, withFileTypes: true }))
    .filter((e) => e.isFile() && e.name !== ".amber-clip.json")
    .map((e) => path.relative(path.join(world.dataFolder, "repository"), path.join(e.parentPath, e.name)))
    .sort();
  expect(files).toEqual(said);
}, 120_000);

test("many filings to records that have no folder yet, side by side, give each record one folder", async () => {
  for (let i = 0; i < 6; i++) await putRecord(admin, "MF", "vessel", `V-${i}`, { title: "Same Name", fields: { name: "Same Name" } });
  await setRule("vessel", { folderName: "{name}", tellApart: null });
  const ids = await Promise.all(Array.from({ length: 24 }, (_, i) => takeText(admin, `v${i}.txt`, `vessel ${i}`)));
  const filed = await Promise.all(
    ids.map((id, i) =>
      fileAway(admin, id, {
        documentType: "certificate",
        title: `Document ${i}`,
        clips: [{ company: "MF", type: "vessel", key: `V-${i % 6}` }],
      }),
    ),
  );
  const byKey = new Map<number, Set<string>>();
  filed.forEach((f, i) => byKey.set(i % 6, (byKey.get(i % 6) ?? new Set()).add(must(f).path.split("/").slice(0, -1).join("/"))));
  for (const folders of byKey.values()) expect(folders.size).toBe(1);
  expect(new Set([...byKey.values()].flatMap((s) => [...s])).size).toBe(6);
});

async function isAnybodyWaiting(): Promise<boolean> {
  const { rows } = await db().execute(sql`select 1 from pg_locks where locktype = 'advisory' and not granted
    and database = (select oid from pg_database where datname = current_database())`);
  return rows.length > 0;
}

test("who comes second to a record's folder gets the one it has by then, wherever that is", async () => {
  const id = await putRecord(admin, "MF", "vessel", "V-90", { title: "Far Light", fields: { name: "Far Light" } });
  const own = { recordId: id, connection: "companyFolders", ruleStamp: "" };
  let second: ReturnType<typeof settleFolder> | undefined;
  await db().transaction(async (tx) => {
    expect(await enterOwnFolder(tx, { ...own, segments: ["Elsewhere", "Far Light"] })).not.toBeNull();
    second = db().transaction((other) => settleFolder(other, id, true));
    while (!(await isAnybodyWaiting()));
  });
  expect(await second).toMatchObject({ ok: true, value: { segments: ["Elsewhere", "Far Light"] } });
  expect(await db().transaction((tx) => enterOwnFolder(tx, { ...own, segments: ["Elsewhere", "Another"] }))).toBeNull();
});

test("a folder stays the record's when its rule changes; a record that has none yet gets one by the new rule", async () => {
  await putRecord(admin, "MF", "stockItem", "ST-1", { title: "Flares", fields: { name: "Flares" } });
  const filing = { documentType: "batchCertificate", clips: [{ company: "MF", type: "stockItem", key: "ST-1" }] };
  const first = await fileText(admin, "one.txt", "one", { ...filing, title: "One" });
  const before = (await loadRules()).get("stockItem")?.rule;
  if (!before) throw new Error("no rule");
  await setRule("stockItem", { rootFolder: "Other stores" });
  const second = await fileText(admin, "two.txt", "two", { ...filing, title: "Two" });
  expect(second.path).toBe(first.path.replace("One", "Two"));
  await putRecord(admin, "MF", "stockItem", "ST-2", { title: "Rafts", fields: { name: "Rafts" } });
  const other = { documentType: "batchCertificate", clips: [{ company: "MF", type: "stockItem", key: "ST-2" }], title: "Three" };
  expect((await fileText(admin, "three.txt", "three", other)).path).toBe("Other stores/Rafts ST-2/Three.txt");
  await setRule("stockItem", before);
});

test("a record whose place would be too long for the repository is refused, with nothing entered", async () => {
  await setRule("refit", {
    rootFolder: Array.from({ length: 14 }, () => "a very long folder")
      .join("/")
      .slice(0, 120),
    folderName: "{title}",
  });
  const id = await putRecord(admin, "MF", "refit", "R-1", { title: "ü".repeat(290) });
  const tight = { ...diskLimits, pathBytesMax: 150 };
  const settled = await settleFolder(db(), id, false, async () => tight);
  expect(settled).toMatchObject({ ok: false, refusal: { code: "path-too-long" } });
  expect((await db().execute(sql`select 1 from folder where record_id = ${id}`)).rows).toEqual([]);
});

test("a type without a rule files nothing, and says so", async () => {
  await db().execute(sql`delete from folder_rule where record_type = 'contact'`);
  await putRecord(admin, "MF", "contact", "K-1", { title: "Somebody" });
  const id = await takeText(admin, "k.txt", "contact document");
  expect(await fileAway(admin, id, { documentType: "letter", clips: [{ company: "MF", type: "contact", key: "K-1" }] })).toMatchObject({
    ok: false,
    refusal: { code: "no-folder-rule" },
  });
});
