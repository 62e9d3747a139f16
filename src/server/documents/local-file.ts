import { randomUUID } from "node:crypto";
import { createReadStream } from "node:fs";
import { mkdir, open, readdir, rename, rm, stat, utimes } from "node:fs/promises";
import path from "node:path";
import { sql } from "drizzle-orm";
import type { Sha256 } from "#core/shared/brand.ts";
import { side } from "../db/connect.ts";
import { openRepository } from "../filing-plan/open-repository.ts";
import { fetchedFolder, landingStore } from "../ports/adapters.ts";
import { AppError } from "../ports/app-error.ts";
import { hashStream } from "../ports/repository.ts";

/** Bytes that fetched copies may take together; the ones not used for longest go first. */
const FETCHED_BYTES_MAX = 2 * 1024 ** 3;
/** Fetched copies are counted again after so many fetches. */
const COUNT_EVERY = 20;
let fetches = 0;

/**
 * A local file with these bytes: in the landing store, else a copy fetched from where a document with them is placed, proven by its hash.
 * Throws AppError `repository-unreachable` when it is only there and cannot be fetched now, `bytes-missing` when it is nowhere.
 */
export async function localFile(sha256: Sha256): Promise<string> {
  const store = landingStore();
  if ((await store.sizeOf(sha256)) !== null) return store.pathOf(sha256);
  const fetched = path.join(fetchedFolder(), sha256.slice(0, 2), sha256);
  const there = await stat(fetched).catch(() => null);
  if (there) {
    // Its time of use decides what goes first.
    await utimes(fetched, new Date(), new Date()).catch(() => {});
    return fetched;
  }
  return fetchFile(sha256, fetched);
}

async function fetchFile(sha256: Sha256, target: string): Promise<string> {
  const places = await side().execute<{ connection: string; path: string }>(
    sql`select connection, path from place where sha256 = ${sha256} and state in ('stored','moving') limit 5`,
  );
  let away: unknown = null;
  for (const at of places.rows) {
    try {
      const stream = await (await openRepository(at.connection)).read(at.path);
      if (!stream) continue;
      await mkdir(path.dirname(target), { recursive: true });
      const half = path.join(path.dirname(target), `.${randomUUID()}.part`);
      try {
        const handle = await open(half, "wx", 0o440);
        try {
          for await (const piece of stream) await handle.writeFile(piece as Buffer);
        } finally {
          await handle.close();
        }
        // Other bytes than the proven ones are never given out as the document.
        if ((await hashStream(createReadStream(half))) !== sha256) continue;
        await rename(half, target);
      } finally {
        await rm(half, { force: true });
      }
      if (++fetches % COUNT_EVERY === 0) await trimFetched();
      return target;
    } catch (error) {
      away = error;
    }
  }
  if (away instanceof AppError) throw away;
  if (away) throw new AppError("repository-unreachable", "later", "the document could not be fetched", away);
  // ENOENT: what reads a missing file says.
  throw Object.assign(new Error("the bytes are nowhere"), { code: "ENOENT" });
}

/** Makes sure that bytes are in the landing store and not only in the repository; before they leave the repository. */
export async function ensureLanded(sha256: Sha256): Promise<void> {
  if ((await landingStore().sizeOf(sha256)) !== null) return;
  const kept = await landingStore().keep(createReadStream(/* turbopackIgnore: true */ await localFile(sha256)), Number.MAX_SAFE_INTEGER);
  if (!kept.ok) throw new AppError("no-space", "later", "there is no room for the bytes");
  await side().execute(sql`update content set is_landed = true where sha256 = ${sha256}`);
}

/** Removes fetched copies, the ones not used for longest first, until they fit. Answers how many went. */
export async function trimFetched(bytesMax = FETCHED_BYTES_MAX): Promise<number> {
  const root = fetchedFolder();
  const files: { file: string; bytes: number; usedMs: number }[] = [];
  for (const entry of await readdir(root, { recursive: true, withFileTypes: true }).catch(() => [])) {
    if (!entry.isFile()) continue;
    const file = path.join(entry.parentPath, entry.name);
    const found = await stat(file).catch(() => null);
    if (found) files.push({ file, bytes: found.size, usedMs: found.mtimeMs });
  }
  let bytes = files.reduce((sum, f) => sum + f.bytes, 0);
  let gone = 0;
  for (const f of files.sort((a, b) => a.usedMs - b.usedMs)) {
    if (bytes <= bytesMax) break;
    await rm(f.file, { force: true });
    bytes -= f.bytes;
    gone++;
  }
  return gone;
}
