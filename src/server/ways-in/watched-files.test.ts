import { createHash } from "node:crypto";
import { mkdir, mkdtemp, readdir, readFile, rm, symlink, utimes, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { parseSha256 } from "#core/shared/brand.ts";
import { eachWatchedFile, isSame, lookAt, putAmongDone, readWatched, removeTaken, type WatchedFile } from "./watched-files.ts";

let root = "";
beforeEach(async () => {
  root = await mkdtemp(path.join(os.tmpdir(), "amber-watched-"));
});
afterEach(() => rm(root, { recursive: true, force: true }));
const put = async (name: string, body = name): Promise<WatchedFile> => {
  await mkdir(path.dirname(path.join(root, name)), { recursive: true });
  await writeFile(path.join(root, name), body);
  const file = await lookAt(root, name);
  if (!file) throw new Error("no file");
  return file;
};
const hash = (body: string) => parseSha256(createHash("sha256").update(body).digest("hex"));
const all = async () => {
  const found: string[] = [];
  for await (const f of eachWatchedFile(root)) found.push(f.path);
  return found.sort();
};

test("What may be taken: files in folders, but nothing hidden, unfinished, linked or done already", async () => {
  for (const name of [
    "a.pdf",
    "b/c/d.txt",
    "done/old.pdf",
    "x/done/this counts.pdf",
    ".git/config",
    "e.pdf.crdownload",
    "~$f.docx",
    "g.TMP",
  ])
    await put(name);
  await symlink("/etc", path.join(root, "etc"));
  await symlink("/etc/hostname", path.join(root, "host"));
  expect(await all()).toEqual(["a.pdf", "b/c/d.txt", "x/done/this counts.pdf"]);
  await expect(readWatched(root, "host")).rejects.toMatchObject({ code: "ELOOP" });
});

test("A root that is not there throws; a folder that goes meanwhile is left out", async () => {
  await put("a/b.txt");
  await put("c.txt");
  const seen: string[] = [];
  for await (const f of eachWatchedFile(root)) {
    seen.push(f.path);
    await rm(path.join(root, "a"), { recursive: true, force: true });
  }
  expect(seen).toEqual(["c.txt"]);
  await rm(root, { recursive: true });
  await expect(all()).rejects.toMatchObject({ code: "ENOENT" });
});

test("What was taken is removed only while its bytes are those that were taken", async () => {
  const file = await put("a.txt", "taken");
  await writeFile(path.join(root, "a.txt"), "other");
  expect(await removeTaken(root, file, hash("taken"))).toBe(false);
  expect(await readFile(path.join(root, "a.txt"), "utf8")).toBe("other");
  const again = await put("a.txt", "taken");
  // The same bytes, written again: somebody is at it.
  await utimes(path.join(root, "a.txt"), new Date(), new Date(Date.now() + 5000));
  expect(await removeTaken(root, again, hash("taken"))).toBe(false);
  const still = await lookAt(root, "a.txt");
  expect(still && isSame(still, again)).toBe(false);
  if (still) expect(await removeTaken(root, still, hash("taken"))).toBe(true);
  expect(await all()).toEqual([]);
});

test("What is moved to done replaces nothing there", async () => {
  for (const body of ["1", "2", "3"]) await putAmongDone(root, await put("m/a.tar.gz", body));
  expect((await readdir(path.join(root, "done/m"))).sort()).toEqual(["a.tar (2).gz", "a.tar (3).gz", "a.tar.gz"]);
  expect(await readFile(path.join(root, "done/m/a.tar (3).gz"), "utf8")).toBe("3");
});
