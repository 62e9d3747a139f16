import { writeFileSync } from "node:fs";
import { mkdir, mkdtemp, readdir, readFile, rm, utimes, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { folderRepository } from "./disk.ts";

describe("All folders that stand in one are moved together", () => {
  let root = "";
  beforeEach(async () => {
    root = await mkdtemp(path.join(os.tmpdir(), "amber-disk-"));
    for (const key of ["B-1", "B-2"]) {
      await mkdir(path.join(root, "Bookings/2026", key), { recursive: true });
      await writeFile(path.join(root, "Bookings/2026", key, "Letter.txt"), key);
    }
  });
  afterEach(() => rm(root, { recursive: true, force: true }));
  const names = new Set(["B-1", "B-2", "B-3"]);
  const move = (to: string, which: ReadonlySet<string> = names) =>
    folderRepository(root).moveAllIn?.("Bookings/2026", to, new Map([["", which]]));
  const files = async (): Promise<string[]> =>
    (await readdir(root, { recursive: true, withFileTypes: true }))
      .filter((e) => e.isFile())
      .map((e) => path.relative(root, path.join(e.parentPath, e.name)))
      .sort();

  test("to a place whose folders above are made", async () => {
    expect(await move("Freight/by year/2026")).toBe(true);
    expect(await files()).toEqual(["Freight/by year/2026/B-1/Letter.txt", "Freight/by year/2026/B-2/Letter.txt"]);
    expect(await readFile(path.join(root, "Freight/by year/2026/B-2/Letter.txt"), "utf8")).toBe("B-2");
  });
  test.each([
    ["another folder stands beside them", "Bookings/2026/B-9/Letter.txt", "Freight/2026"],
    ["a file stands beside them", "Bookings/2026/theirs.txt", "Freight/2026"],
    ["something stands at the new place", "Freight/2026/B-7/Letter.txt", "Freight/2026"],
    ["the new place is inside the old one", "Bookings/2026/B-1/Letter 2.txt", "Bookings/2026/B-1/2026"],
  ])("not when %s: nothing is changed then", async (_, other, to) => {
    await mkdir(path.dirname(path.join(root, other)), { recursive: true });
    await writeFile(path.join(root, other), "theirs");
    const before = await files();
    expect(await move(to)).toBe(false);
    expect(await files()).toEqual(before);
  });
  test("with the folders they stand in, when nothing else stands in those either", async () => {
    const folders = new Map([
      ["2026", new Set(["B-1", "B-2"])],
      ["2027", new Set(["B-3"])],
    ]);
    const { moveAllIn } = folderRepository(root);
    await mkdir(path.join(root, "Bookings/2027/theirs"), { recursive: true });
    expect(await moveAllIn?.("Bookings", "Freight", folders)).toBe(false);
    await rm(path.join(root, "Bookings/2027/theirs"), { recursive: true });
    expect(await moveAllIn?.("Bookings", "Freight", folders)).toBe(true);
    expect(await files()).toEqual(["Freight/2026/B-1/Letter.txt", "Freight/2026/B-2/Letter.txt"]);
  });
  test("not from a folder that is not there", async () => {
    expect(await folderRepository(root).moveAllIn?.("Bookings/2027", "Freight/2027", new Map([["", names]]))).toBe(false);
  });
  test("a file that came in while they were moved is put back", async () => {
    const file = path.join(root, "Bookings/2026/late.txt");
    await writeFile(file, "theirs");
    let asked = 0;
    // As if it had not been there at the first look.
    const late = Object.assign(new Set(names), { has: (name: string) => names.has(name) || (name === "late.txt" && asked++ === 0) });
    expect(await move("Freight/2026", late)).toBe(true);
    expect(await readFile(file, "utf8")).toBe("theirs");
    expect(await files()).toEqual(["Bookings/2026/late.txt", "Freight/2026/B-1/Letter.txt", "Freight/2026/B-2/Letter.txt"]);
  });
  describe("whose folders had not changed for a while", () => {
    const old = new Date("2026-01-01T00:00:00Z");
    beforeEach(() => utimes(path.join(root, "Bookings/2026"), old, old));
    /** Names that are asked for, and what happens at the first of them. */
    const asked = (first: () => void = () => {}) => {
      const names: string[] = [];
      return {
        names,
        which: Object.assign(new Set(["B-1", "B-2"]), {
          has: (name: string) => (names.push(name) === 1 && first(), name.startsWith("B-")),
        }),
      };
    };
    test("are looked into once", async () => {
      const { names, which } = asked();
      expect(await move("Freight/2026", which)).toBe(true);
      expect(names.sort()).toEqual(["B-1", "B-2"]);
    });
    test("are looked into again when something came in after the look, and that is put back", async () => {
      const { which } = asked(() => writeFileSync(path.join(root, "Bookings/2026/late.txt"), "theirs"));
      expect(await move("Freight/2026", which)).toBe(true);
      expect(await files()).toEqual(["Bookings/2026/late.txt", "Freight/2026/B-1/Letter.txt", "Freight/2026/B-2/Letter.txt"]);
    });
  });
  test("what came in while they were moved is put back", async () => {
    let asked = 0;
    // As if it had not been there at the first look.
    const late = Object.assign(new Set(names), { has: (name: string) => names.has(name) && (name !== "B-2" || asked++ === 0) });
    expect(await move("Freight/2026", late)).toBe(true);
    expect(await files()).toEqual(["Bookings/2026/B-2/Letter.txt", "Freight/2026/B-1/Letter.txt"]);
  });
});
