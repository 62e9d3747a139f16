import { mkdir, mkdtemp, readdir, readFile, rm, stat, utimes, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { Readable } from "node:stream";
import { createHash } from "node:crypto";
import { parseSha256, type Sha256 } from "#core/shared/brand.ts";
import type { Result } from "#core/shared/result.ts";
import { parseRange } from "../api/serve-content.ts";
import { folderLandingStore } from "./landing-store.ts";

let folder = "";
beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), "amber-ports-"));
});
afterEach(async () => {
  await rm(folder, { recursive: true, force: true });
});
const hash = (text: string): Sha256 => parseSha256(createHash("sha256").update(text).digest("hex"));
const filesBelow = async (root: string): Promise<string[]> =>
  (await readdir(root, { recursive: true, withFileTypes: true })).filter((e) => e.isFile()).map((e) => e.name);

const must = <T>(result: Result<T>): T => {
  if (!result.ok) throw new Error(result.refusal.code);
  return result.value;
};

describe("The landing store", () => {
  test("keeps bytes under their hash and reads them back, whole or a range", async () => {
    const store = folderLandingStore(folder);
    const kept = await store.keep(Readable.from(["hello ", "world"]), 1000);
    expect(kept).toEqual({ ok: true, value: { sha256: hash("hello world"), sizeBytes: 11 } });
    const read = async (range?: { start: number; end: number }) =>
      Buffer.concat(await store.read(hash("hello world"), range).toArray()).toString();
    expect(await read()).toBe("hello world");
    expect(await read({ start: 6, end: 8 })).toBe("wor");
    expect(await store.sizeOf(hash("hello world"))).toBe(11);
    expect(await store.sizeOf(hash("nothing"))).toBeNull();
  });
  test("keeps the same bytes once, also when they come at the same time", async () => {
    const store = folderLandingStore(folder);
    await Promise.all(Array.from({ length: 12 }, () => store.keep(Readable.from(["same"]), 1000)));
    expect(await filesBelow(folder)).toEqual([hash("same")]);
  });
  test("refuses what is too large as soon as it is, and keeps nothing of it", async () => {
    const store = folderLandingStore(folder);
    let pulled = 0;
    const endless = Readable.from(
      (function* () {
        for (;;) {
          pulled++;
          yield Buffer.alloc(1000);
        }
      })(),
    );
    const kept = await store.keep(endless, 5000);
    expect(kept.ok === false && kept.refusal.code).toBe("too-large");
    expect(pulled).toBeLessThan(40);
    expect(await filesBelow(folder)).toEqual([]);
  });
  test("keeps nothing of a stream that breaks", async () => {
    const store = folderLandingStore(folder);
    const broken = Readable.from(
      (async function* () {
        yield Buffer.from("half");
        throw new Error("cut");
      })(),
    );
    await expect(store.keep(broken, 1000)).rejects.toThrow("cut");
    expect(await filesBelow(folder)).toEqual([]);
  });
  test("clears old halves that a killed process left, and leaves those being written", async () => {
    const store = folderLandingStore(folder);
    await mkdir(path.join(folder, "halves"));
    for (const name of ["old", "new"]) await writeFile(path.join(folder, "halves", name), "x");
    const work = await store.makeWorkFolder();
    await writeFile(path.join(work, "made.pdf"), "x");
    for (const left of [path.join(folder, "halves", "old"), work]) await utimes(left, 1, 1);
    expect(await store.clearHalves(60_000)).toBe(2);
    expect(await filesBelow(folder)).toEqual(["new"]);
  });
  test.each([3, 30])("takes over %i finished files, the same bytes once, in their order", async (count) => {
    const store = folderLandingStore(path.join(folder, "landing"));
    const texts = Array.from({ length: count }, (_, i) => `file ${i % (count - 1)}`);
    const files = texts.map((_, i) => path.join(folder, `made-${i}.pdf`));
    for (const [i, file] of files.entries()) await writeFile(file, texts[i] ?? "");
    await store.keep(Readable.from(["file 1"]), 1000);
    const kept = must(await store.keepFiles(files));
    await kept.safe;
    expect(kept.landed).toEqual(texts.map((t) => ({ sha256: hash(t), sizeBytes: t.length })));
    expect((await filesBelow(folder)).sort()).toEqual([...new Set(texts)].map(hash).sort());
    for (const text of texts) {
      expect(await readFile(store.pathOf(hash(text)), "utf8")).toBe(text);
      expect((await stat(store.pathOf(hash(text)))).mode & 0o777).toBe(0o440);
    }
  });
  test("takes over what was made on its own disk from where it is", async () => {
    const store = folderLandingStore(folder);
    const work = await store.makeWorkFolder();
    await writeFile(path.join(work, "made.pdf"), "here");
    const kept = must(await store.keepFiles([path.join(work, "made.pdf")]));
    await kept.safe;
    expect(await readFile(store.pathOf(hash("here")), "utf8")).toBe("here");
    expect(await readdir(work)).toEqual([]);
    expect(await readdir(path.dirname(work))).toEqual([path.basename(work)]);
  });
  test("leaves no half of files when one of them is gone", async () => {
    const store = folderLandingStore(folder);
    await writeFile(path.join(folder, "made.pdf"), "here");
    await expect(store.keepFiles([path.join(folder, "made.pdf"), path.join(folder, "gone.pdf")])).rejects.toThrow("ENOENT");
    expect(await filesBelow(folder)).toEqual([]);
    expect(must(await store.keepFiles([])).landed).toEqual([]);
  });
  test("an empty file is kept too", async () => {
    const kept = await folderLandingStore(folder).keep(Readable.from([]), 1000);
    expect(kept.ok && kept.value.sizeBytes).toBe(0);
  });
});

describe("Byte ranges", () => {
  const cases: readonly (readonly [string | null, unknown])[] = [
    [null, null],
    ["bytes=0-4", { start: 0, end: 4 }],
    ["bytes=5-", { start: 5, end: 9 }],
    ["bytes=-3", { start: 7, end: 9 }],
    ["bytes=0-99", { start: 0, end: 9 }],
    ["bytes=10-", "unsatisfiable"],
    ["bytes=4-2", "unsatisfiable"],
    ["bytes=-", null],
    ["bytes=0-1,3-4", null],
    ["lines=1-2", null],
  ];
  test.each(cases)("%s of 10 bytes", (header, range) => expect(parseRange(header, 10)).toEqual(range));
});

test("the server's canary is in no file that a browser gets", async () => {
  // Only there after a build; the end-to-end tests always run on one.
  const root = path.resolve(".next/static");
  if (!(await stat(".next/amber-build").catch(() => null))) return;
  const files = (await readdir(root, { recursive: true, withFileTypes: true })).filter((e) => e.isFile() && e.name.endsWith(".js"));
  expect(files.length).toBeGreaterThan(3);
  for (const file of files) expect(await readFile(path.join(file.parentPath, file.name), "utf8")).not.toContain("amber-canary-7f3a");
});
