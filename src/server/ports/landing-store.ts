import { createHash, randomUUID } from "node:crypto";
import { constants, createReadStream } from "node:fs";
import { chmod, copyFile, mkdir, mkdtemp, open, readdir, readFile, rename, rm, stat } from "node:fs/promises";
import path from "node:path";
import type { Readable } from "node:stream";
import { parseSha256, type Sha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { systemCode } from "./system-code.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import { flushDisk, makeFolder, syncFile, syncFolder } from "./whole-file.ts";

/** What was kept of a stream. */
export interface Landed {
  readonly sha256: Sha256;
  readonly sizeBytes: number;
}

/** Where the bytes of everything that arrives are kept, under their hash, for good. */
export interface LandingStore {
  /**
   * Keeps a stream, hashing on the way. When it answers ok the bytes are on disk under their hash (fsync of file and folder).
   * Refuses with `too-large` as soon as the limit is passed and `no-space` when the disk is full; then nothing is kept.
   * A stream that fails throws, and nothing is kept.
   */
  keep(stream: Readable, bytesMax: number): Promise<Result<Landed>>;
  /** A new folder on its disk for making files that it is to keep; whoever asks for it removes it. What a process that died leaves goes with its halves. */
  makeWorkFolder(): Promise<string>;
  /**
   * The same for finished files of our own, which it moves: many of them are flushed to the disk together, not each and its folder. Answers in their
   * order, as soon as their bytes are on disk; their names are when `safe` is there, which has to be waited for before anybody is told that they are kept.
   * Refuses with `no-space` as a whole, and some may be kept then, which are cleared away when nobody enters them. `known` are their hashes and sizes,
   * where they were taken before.
   */
  keepFiles(
    files: readonly string[],
    known?: readonly Landed[],
  ): Promise<Result<{ readonly landed: readonly Landed[]; readonly safe: Promise<void> }>>;
  /** The path of kept bytes; they are read only. */
  pathOf(sha256: Sha256): string;
  /** Size of kept bytes, null when they are not here. */
  sizeOf(sha256: Sha256): Promise<number | null>;
  /** Reads kept bytes, all or a range (both ends included). */
  read(sha256: Sha256, range?: { readonly start: number; readonly end: number }): Readable;
  /** Removes halves left behind by a process that died. Call when nothing writes. Answers how many. */
  clearHalves(olderThanMs: number): Promise<number>;
}

/** Files that are read for their hash side by side. */
const READ_AT_ONCE = 8;
/** Files that are flushed one by one; when there are more, the whole disk is, twice: their bytes, then their names. */
const FLUSH_EACH_MAX = 24;

/** A landing store in a folder: `kept/ab/cd/<sha256>`, halves in `halves/`. */
export function folderLandingStore(root: string): LandingStore {
  const halves = path.join(root, "halves");
  const pathOf = (sha256: Sha256): string => path.join(root, "kept", sha256.slice(0, 2), sha256.slice(2, 4), sha256);
  return {
    pathOf,
    async keep(stream, bytesMax) {
      await mkdir(halves, { recursive: true });
      const half = path.join(halves, randomUUID());
      const handle = await open(half, "wx", 0o440);
      const hash = createHash("sha256");
      let sizeBytes = 0;
      try {
        for await (const piece of stream) {
          const bytes = Buffer.isBuffer(piece) ? piece : Buffer.from(piece as Uint8Array);
          sizeBytes += bytes.length;
          if (sizeBytes > bytesMax) {
            await handle.close();
            await rm(half, { force: true });
            return refuse("too-large");
          }
          hash.update(bytes);
          for (let written = 0; written < bytes.length;) written += (await handle.write(bytes, written)).bytesWritten;
        }
        await handle.sync();
        await handle.close();
        const sha256 = parseSha256(hash.digest("hex"));
        const target = pathOf(sha256);
        const known = await stat(target).catch(() => null);
        if (known && known.size === sizeBytes) await rm(half, { force: true });
        else {
          await makeFolder(path.dirname(target));
          await rename(half, target);
        }
        // Also when it was known: whoever kept it first may not have flushed the folder yet.
        await syncFolder(path.dirname(target));
        return ok({ sha256, sizeBytes });
      } catch (error) {
        await handle.close().catch(() => {});
        await rm(half, { force: true });
        if (["ENOSPC", "EDQUOT"].includes(systemCode(error) ?? "")) return refuse("no-space");
        throw error;
      }
    },
    async makeWorkFolder() {
      await mkdir(halves, { recursive: true });
      return mkdtemp(path.join(halves, "work-"));
    },
    async keepFiles(files, known) {
      await mkdir(halves, { recursive: true });
      const taken: string[] = [];
      try {
        await sideBySide([...files.entries()], READ_AT_ONCE, async ([i, file]) => {
          const isHere = file.startsWith(halves + path.sep);
          const half = isHere ? file : path.join(halves, randomUUID());
          taken[i] = half;
          // On another disk it is copied; here it only gets another name.
          if (!isHere)
            await rename(file, half).catch(async (error: unknown) => {
              if (systemCode(error) !== "EXDEV") throw error;
              await copyFile(file, half, constants.COPYFILE_EXCL);
            });
          await chmod(half, 0o440);
        });
        const together = taken.length > FLUSH_EACH_MAX;
        // Read for their hash while they are flushed.
        const [made] = await Promise.all([
          known ?? hashFiles(taken),
          together ? flushDisk(halves) : sideBySide([...taken], READ_AT_ONCE, syncFile),
        ]);
        const folders = new Set(made.map(({ sha256 }) => path.dirname(pathOf(sha256))));
        await sideBySide([...folders], READ_AT_ONCE, (folder) =>
          together ? mkdir(folder, { recursive: true }).then(() => {}) : makeFolder(folder),
        );
        await sideBySide([...made.entries()], READ_AT_ONCE, async ([i, { sha256, sizeBytes }]) => {
          const [half, target] = [taken[i] ?? "", pathOf(sha256)];
          const there = await stat(target).catch(() => null);
          if (there?.size === sizeBytes) await rm(half, { force: true });
          else await rename(half, target);
        });
        const safe = together ? flushDisk(root) : sideBySide([...folders], READ_AT_ONCE, syncFolder).then(() => {});
        // Whoever waits for it is told.
        safe.catch(() => {});
        return ok({ landed: made, safe });
      } catch (error) {
        for (const half of taken) if (half) await rm(half, { force: true });
        if (["ENOSPC", "EDQUOT"].includes(systemCode(error) ?? "")) return refuse("no-space");
        throw error;
      }
    },
    async sizeOf(sha256) {
      const found = await stat(pathOf(sha256)).catch(() => null);
      return found?.size ?? null;
    },
    read(sha256, range) {
      return createReadStream(pathOf(sha256), range);
    },
    async clearHalves(olderThanMs) {
      const names = await readdir(halves).catch(() => []);
      let cleared = 0;
      for (const name of names) {
        const found = await stat(path.join(halves, name)).catch(() => null);
        if (found && found.mtimeMs < Date.now() - olderThanMs) {
          await rm(path.join(halves, name), { recursive: true, force: true });
          cleared++;
        }
      }
      return cleared;
    },
  };
}

/** Files up to this size are read in one go, bytes: a stream costs more than a small file. */
const READ_WHOLE_MAX = 1024 * 1024;

/** Hashes and sizes of finished files, in their order. */
export const hashFiles = (files: readonly string[]): Promise<readonly Landed[]> => sideBySide([...files], READ_AT_ONCE, hashFile);

async function hashFile(file: string): Promise<Landed> {
  const hash = createHash("sha256");
  const { size } = await stat(file);
  if (size <= READ_WHOLE_MAX) hash.update(await readFile(file));
  else for await (const piece of createReadStream(file)) hash.update(piece as Buffer);
  return { sha256: parseSha256(hash.digest("hex")), sizeBytes: size };
}
