import { chmod, mkdtemp, rm, symlink, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { parseTsv } from "./read-words.ts";
import { readerLife, readTable } from "./word-reader.ts";

/** Stands in for tesseract: tells its number and the page's name as a word, and goes wrong by the name. */
const STAND_IN = `#!/bin/bash
printf 'level\\tpage_num\\n'
while IFS= read -r file; do
  name=$(basename "$file")
  case $name in
    crash*) kill -9 $$ ;;
    waits*) exec sleep 600 ;;
    computes*) while :; do :; done ;;
    tells*) yes 'more and more' ;;
    ends*) echo 'cannot be read' >&2; exit 1 ;;
  esac
  printf '1\\t1\\t0\\t0\\t0\\t0\\t0\\t0\\t9\\t9\\t-1\\t\\n'
  [ "$name" = mark.pgm ] || printf '5\\t1\\t1\\t1\\t1\\t1\\t10\\t20\\t30\\t40\\t90\\t%s:%s\\n' $$ "$name"
done
`;
const limits = { timeoutMs: 60_000, stdoutMax: 100_000 };
let folder = "";
const before = process.env["PATH"];
const was = { ...readerLife };
beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), "amber-reader-"));
  await writeFile(path.join(folder, "tesseract"), STAND_IN);
  await chmod(path.join(folder, "tesseract"), 0o755);
  process.env["PATH"] = `${folder}:${before}`;
});
afterEach(async () => {
  process.env["PATH"] = before;
  Object.assign(readerLife, was);
  await rm(folder, { recursive: true, force: true });
});
let ways = 0;
/** A way of reading of its own for each test: processes are kept by it. */
const how = () => ({ languages: `eng${++ways}`, segmentation: "4", dpi: 200 });
const read = async (
  name: string,
  way: ReturnType<typeof how>,
  given = limits,
): Promise<readonly [process: string, page: string] | null> => {
  const word = parseTsv(await readTable(path.join(folder, name), way, given))[0];
  const [pid = "", page = ""] = word?.text.split(":") ?? [];
  return word ? [pid, page] : null;
};
const isThere = (pid: string): boolean => {
  try {
    return process.kill(Number(pid), 0);
  } catch {
    return false;
  }
};

describe("A process that reads words off pictures", () => {
  test("stays for the next page, and tells each page's words and no others", async () => {
    const way = how();
    const told = [await read("a.pgm", way), await read("b.pgm", way), await read("c.pgm", way)];
    expect(told.map((t) => t?.[1])).toEqual(["a.pgm", "b.pgm", "c.pgm"]);
    expect(new Set(told.map((t) => t?.[0])).size).toBe(1);
  });
  test("reads one page at a time: two at once are two processes, which both stay", async () => {
    const way = how();
    const first = await Promise.all([read("a.pgm", way), read("b.pgm", way)]);
    expect(new Set(first.map((t) => t?.[0])).size).toBe(2);
    const next = await Promise.all([read("c.pgm", way), read("d.pgm", way)]);
    expect(next.map((t) => t?.[0]).sort()).toEqual(first.map((t) => t?.[0]).sort());
    expect(next.map((t) => t?.[1])).toEqual(["c.pgm", "d.pgm"]);
  });
  test("gives way to another after so many pages", async () => {
    readerLife.pagesMax = 2;
    const way = how();
    const told = [await read("a.pgm", way), await read("b.pgm", way), await read("c.pgm", way)].map((t) => t?.[0]);
    expect(told[0]).toBe(told[1]);
    expect(told[2]).not.toBe(told[0]);
  });
  test("ends when there was nothing to read for a while", async () => {
    readerLife.idleMs = 1;
    const pid = (await read("a.pgm", how()))?.[0] ?? "";
    while (isThere(pid)) await new Promise((resolve) => setTimeout(resolve, 20));
    expect(isThere(pid)).toBe(false);
  });
  test.each([
    ["crashes", "crash.pgm", limits],
    ["ends", "ends.pgm", limits],
    ["computes without end", "computes.pgm", { ...limits, timeoutMs: 300 }],
    ["waits without end", "waits.pgm", { ...limits, timeoutMs: 100 }],
    ["tells more than it may", "tells.pgm", limits],
  ])("that %s over a page has no words of it, and the next page is read by another", async (_, name, given) => {
    const way = how();
    const first = await read("a.pgm", way);
    expect(await read(name, way, given)).toBeNull();
    const next = await read("b.pgm", way);
    expect(next?.[1]).toBe("b.pgm");
    expect(next?.[0]).not.toBe(first?.[0]);
  });
  test("that was ended from outside while it had nothing to do is replaced, and the page is read", async () => {
    const way = how();
    const first = await read("a.pgm", way);
    process.kill(Number(first?.[0]), "SIGKILL");
    expect((await read("b.pgm", way))?.[1]).toBe("b.pgm");
  });
  test("that is not installed is said to be missing", async () => {
    await rm(path.join(folder, "tesseract"));
    process.env["PATH"] = await onlyFences();
    await expect(read("a.pgm", how())).rejects.toMatchObject({ code: "reader-missing" });
  });
});

/** A path on which nothing is but what programs are fenced in with. */
async function onlyFences(): Promise<string> {
  for (const name of ["prlimit", "nice", "stdbuf"]) await symlink(`/usr/bin/${name}`, path.join(folder, name));
  return folder;
}
