import { createHash } from "node:crypto";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import type { Readable } from "node:stream";
import { parseSha256, type Sha256 } from "#core/shared/brand.ts";
import type { Repository } from "./repository.ts";

/** A repository to be tried, with a way in that goes around it, as other people have. */
export interface TriedRepository {
  readonly repository: Repository;
  putBehind(relativePath: string, text: string): Promise<void>;
  readBehind(relativePath: string): Promise<string>;
  /** Takes the whole repository away, as if it were not plugged in, until the answer is called. */
  unplug(): Promise<() => Promise<void>>;
  /** Turns faults of the line and the server on; kinds without a line have none. */
  setFaults?(faults: Readonly<Record<string, number | boolean>>): Promise<void>;
  end(): Promise<void>;
}

const text = async (stream: Readable | null): Promise<string | null> => {
  if (!stream) return null;
  const pieces: Buffer[] = [];
  for await (const piece of stream) pieces.push(piece as Buffer);
  return Buffer.concat(pieces).toString("utf8");
};

/** What every kind of repository must do; each kind's test calls it. */
export function describeRepository(kind: string, make: () => Promise<TriedRepository>): void {
  describe(`The repository: ${kind}`, () => {
    let tried: TriedRepository;
    let local = "";
    const hash = (text: string): Sha256 => parseSha256(createHash("sha256").update(text).digest("hex"));
    const put = async (relative: string, text: string) => {
      const file = path.join(local, "file");
      await writeFile(file, text);
      return tried.repository.put(relative, file, hash(text));
    };
    beforeEach(async () => {
      tried = await make();
      await tried.repository.prepare();
      local = await mkdtemp(path.join(os.tmpdir(), "amber-contract-"));
    });
    afterEach(async () => {
      await tried.end();
      await rm(local, { recursive: true, force: true });
    });

    test("puts a file with its folders and proves it by reading back", async () => {
      expect(await put("Customers/Orrin C-1042/Léttér.pdf", "one")).toEqual({ kind: "put" });
      expect(await tried.repository.hashOf("Customers/Orrin C-1042/Léttér.pdf")).toBe(hash("one"));
      expect(await tried.readBehind("Customers/Orrin C-1042/Léttér.pdf")).toBe("one");
    });
    test("twice is once", async () => {
      await put("a/b.pdf", "one");
      expect(await put("a/b.pdf", "one")).toEqual({ kind: "put" });
    });
    test("a local file with other bytes than it should have is refused, or shows when it is read back", async () => {
      const file = path.join(local, "torn");
      await writeFile(file, "torn");
      const outcome = await tried.repository.put("a/b.pdf", file, hash("whole")).catch((error: unknown) => error);
      if (outcome instanceof Error) {
        expect(outcome).toMatchObject({ code: "bytes-damaged" });
        expect(await tried.repository.look("a/b.pdf")).toBeNull();
      } else expect(await tried.repository.hashOf("a/b.pdf")).toBe(hash("torn"));
    });
    test("never replaces a file of somebody else", async () => {
      await tried.putBehind("a/b.pdf", "theirs");
      expect(await put("a/b.pdf", "ours")).toEqual({ kind: "taken", sha256: hash("theirs") });
      expect(await tried.readBehind("a/b.pdf")).toBe("theirs");
    });
    test("says when nothing is there", async () => expect(await tried.repository.hashOf("nowhere/at all.pdf")).toBeNull());
    test("takes back only what still has the right bytes", async () => {
      await put("a/b.pdf", "one");
      expect(await tried.repository.takeBack("a/b.pdf", hash("other"))).toBe("changed");
      expect(await tried.repository.takeBack("a/b.pdf", hash("one"))).toBe("taken-back");
      expect(await tried.repository.takeBack("a/b.pdf", hash("one"))).toBe("not-there");
    });
    test.each(["../out.pdf", "a/../../out.pdf", "a//b.pdf", "/etc/passwd", "a/./b"])("refuses to leave its root: %s", async (relative) => {
      await expect(put(relative, "x")).rejects.toThrow("illegal path");
    });
    test("many putting at the same place: one has it, the others are told", async () => {
      const files = await Promise.all(
        Array.from({ length: 8 }, async (_, i) => {
          const file = path.join(local, `f${i}`);
          await writeFile(file, `text ${i}`);
          return file;
        }),
      );
      const outcomes = await Promise.all(files.map((file, i) => tried.repository.put("a/b.pdf", file, hash(`text ${i}`))));
      expect(outcomes.filter((o) => o.kind === "put")).toHaveLength(1);
    });
    test("can be checked for health", async () => expect(await tried.repository.check()).toBe(true));

    test("moves a file into a folder that is not there yet, and twice is once", async () => {
      await put("a/b.pdf", "one");
      expect(await tried.repository.move("a/b.pdf", "new folder/deep/c.pdf")).toBe("moved");
      expect(await tried.repository.move("a/b.pdf", "new folder/deep/c.pdf")).toBe("moved");
      expect(await tried.readBehind("new folder/deep/c.pdf")).toBe("one");
      expect(await tried.repository.look("a/b.pdf")).toBeNull();
    });
    test("a move never replaces a file of somebody else, and says when there is nothing to move", async () => {
      await put("a/b.pdf", "one");
      await tried.putBehind("a/c.pdf", "theirs");
      expect(await tried.repository.move("a/b.pdf", "a/c.pdf")).toBe("taken");
      expect(await tried.readBehind("a/c.pdf")).toBe("theirs");
      expect(await tried.repository.hashOf("a/b.pdf")).toBe(hash("one"));
      expect(await tried.repository.move("a/nothing.pdf", "a/nowhere.pdf")).toBe("not-there");
    });
    test("moves a whole folder where it can, with what others put in it, and never onto one that holds anything", async () => {
      const { repository } = tried;
      if (!repository.powers.renameFolders) return expect(repository.powers.renameFolders).toBe(false);
      await put("Customers/Orrin/Bookings/one.pdf", "one");
      await tried.putBehind("Customers/Orrin/theirs.txt", "theirs");
      await put("Customers/Halven/two.pdf", "two");
      expect(await repository.moveFolder("Customers/Orrin", "Customers/Halven")).toBe("taken");
      expect(await repository.moveFolder("Customers/Orrin", "Clients/Orrin Ltd")).toBe("moved");
      expect(await repository.moveFolder("Customers/Orrin", "Clients/Orrin Ltd")).toBe("moved");
      expect(await tried.readBehind("Clients/Orrin Ltd/Bookings/one.pdf")).toBe("one");
      expect(await tried.readBehind("Clients/Orrin Ltd/theirs.txt")).toBe("theirs");
      expect(await repository.moveFolder("Customers/Nobody", "Clients/Nobody")).toBe("not-there");
    });
    test("lists what stands in a folder and walks through all, without its own working files", async () => {
      await put("a/one.pdf", "one");
      await tried.putBehind("a/b/Zwölf 12.txt", "theirs");
      await put("a/gone.pdf", "gone");
      await tried.repository.takeBack("a/gone.pdf", hash("gone"));
      const listed = await tried.repository.list("a");
      expect(listed?.folders).toEqual(["b"]);
      expect(listed?.files.map((f) => [f.path, f.sizeBytes])).toEqual([["a/one.pdf", 3]]);
      expect(Math.abs((listed?.files[0]?.modifiedMs ?? 0) - Date.now())).toBeLessThan(60_000);
      expect(await tried.repository.list("nowhere")).toBeNull();
      const found: string[] = [];
      for await (const folder of tried.repository.walk()) found.push(...folder.files.map((f) => f.path));
      expect(found.sort()).toEqual(["a/b/Zwölf 12.txt", "a/one.pdf"]);
    });
    test("gives a file's bytes, and removes it only when they are the ones that are proven elsewhere", async () => {
      await put("a/b.pdf", "one");
      expect(await text(await tried.repository.read("a/b.pdf"))).toBe("one");
      expect(await tried.repository.read("a/none.pdf")).toBeNull();
      expect(await tried.repository.remove("a/b.pdf", hash("other"))).toBe("changed");
      expect(await tried.repository.remove("a/b.pdf", hash("one"))).toBe("removed");
      expect(await tried.repository.remove("a/b.pdf", hash("one"))).toBe("not-there");
    });
    test("removes a folder only when it is empty", async () => {
      await put("a/b/c.pdf", "one");
      // Where folders are only parts of names there are none to keep.
      expect(await tried.repository.removeEmptyFolder("a/b")).toBe(tried.repository.kind === "bucket" ? "gone" : "kept");
      expect(await tried.repository.hashOf("a/b/c.pdf")).toBe(hash("one"));
      await tried.repository.remove("a/b/c.pdf", hash("one"));
      expect(await tried.repository.removeEmptyFolder("a/b")).toBe("gone");
      expect(await tried.repository.removeEmptyFolder("a/b")).toBe("gone");
      expect(await tried.repository.list("a/b")).toBeNull();
    });
    test("every line of its check is fine, and nothing of the check is left behind", async () => {
      const steps = await tried.repository.probe(true);
      expect(steps.filter((s) => s.outcome === "failed" || s.outcome === "skipped")).toEqual([]);
      expect(steps.map((s) => s.step)).toEqual(["reach", "signIn", "write", "readBack", "rename", "remove", "clock", "space"]);
      const root = await tried.repository.list("");
      expect([...(root?.files ?? []).map((f) => f.path), ...(root?.folders ?? [])]).toEqual([]);
    });
    test("one that is not plugged in takes nothing, loses nothing, and does not pass for one that is empty", async () => {
      await put("a/b.pdf", "one");
      const plugIn = await tried.unplug();
      expect(await tried.repository.check()).toBe(false);
      await expect(put("a/c.pdf", "two")).rejects.toMatchObject({ code: "repository-unreachable" });
      await expect(
        (async () => {
          for await (const _ of tried.repository.walk());
        })(),
      ).rejects.toMatchObject({ code: "repository-unreachable" });
      expect((await tried.repository.probe(false)).some((s) => s.outcome === "failed")).toBe(true);
      await plugIn();
      expect(await put("a/c.pdf", "two")).toEqual({ kind: "put" });
      expect(await tried.repository.hashOf("a/b.pdf")).toBe(hash("one"));
    });

    describe("with faults on", () => {
      const withFaults = async (faults: Readonly<Record<string, number | boolean>>, act: () => Promise<void>): Promise<void> => {
        if (!tried.setFaults) return expect(tried.repository.kind).toBe("disk");
        await tried.setFaults(faults);
        try {
          await act();
        } finally {
          await tried.setFaults({});
        }
      };
      test("a full server is said to be full, and keeps no half", async () => {
        await put("a/first.pdf", "first");
        await withFaults({ full: true }, async () => {
          await expect(put("a/b.pdf", "one")).rejects.toMatchObject({ code: "repository-full" });
        });
        await withFaults({}, async () => {
          expect(await tried.repository.look("a/b.pdf")).toBeNull();
          expect((await tried.repository.list("a"))?.files.map((f) => f.path)).toEqual(["a/first.pdf"]);
        });
      });
      test("a server that lets nobody in says so", () =>
        withFaults({ refuses: true }, async () => {
          await expect(put("a/b.pdf", "one")).rejects.toMatchObject({ code: "repository-refused" });
          expect((await tried.repository.probe(false)).find((s) => s.outcome === "failed")).toMatchObject({
            why: expect.stringMatching(/^repository-(refused|rights)$/) as string,
          });
        }));
      test.each([10, 30])("with %i calls of a hundred dropped in the middle, what is answered is whole and in its place", (drops) =>
        withFaults({ drops }, async () => {
          const long = "long text ".repeat(20_000);
          const done: string[] = [];
          for (let i = 0; i < 6; i++) {
            // Tried again as the queue does it.
            for (let attempt = 0; attempt < 20; attempt++) {
              const answer = await put(`a/${i}.pdf`, `${i} ${long}`).catch((error: { code?: string }) => error.code);
              if (answer === "repository-unreachable") continue;
              expect(answer).toEqual({ kind: "put" });
              done.push(`a/${i}.pdf`);
              break;
            }
          }
          await tried.setFaults?.({});
          expect(done).toHaveLength(6);
          for (const [i, relative] of done.entries()) expect(await tried.repository.hashOf(relative)).toBe(hash(`${i} ${long}`));
          expect((await tried.repository.list("a"))?.files.map((f) => f.path).sort()).toEqual(done);
        }),
      );
      test("moves over a line that drops arrive once and whole", () =>
        withFaults({}, async () => {
          await put("a/b.pdf", "one");
          await tried.setFaults?.({ drops: 30 });
          let outcome: string | undefined;
          for (let attempt = 0; attempt < 20 && outcome !== "moved"; attempt++)
            outcome = await tried.repository.move("a/b.pdf", "c/d.pdf").catch((error: { code?: string }) => error.code);
          await tried.setFaults?.({});
          expect(outcome).toBe("moved");
          expect(await tried.repository.hashOf("c/d.pdf")).toBe(hash("one"));
          expect(await tried.repository.look("a/b.pdf")).toBeNull();
        }));
      test("what is carried out twice is done once", () =>
        withFaults({ twice: true }, async () => {
          expect(await put("a/b.pdf", "one")).toEqual({ kind: "put" });
          expect(await tried.repository.move("a/b.pdf", "a/c.pdf")).toBe("moved");
          expect(await tried.repository.hashOf("a/c.pdf")).toBe(hash("one"));
          expect(await tried.repository.takeBack("a/c.pdf", hash("one"))).toBe("taken-back");
          expect(await tried.repository.look("a/c.pdf")).toBeNull();
        }));
      test("a slow server is waited for", () =>
        withFaults({ slowMs: 300 }, async () => {
          expect(await put("a/b.pdf", "one")).toEqual({ kind: "put" });
        }));
    });
  });
}
