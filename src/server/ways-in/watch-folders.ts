import { mkdir } from "node:fs/promises";
import path from "node:path";
import { and, eq, isNotNull, sql } from "drizzle-orm";
import { codesInFolders, documentTypeOfFolders, type WatchAfter } from "#core/arrivals/watched-folder.ts";
import { parseSha256, type Sha256 } from "#core/shared/brand.ts";
import { enterArrival, idFrom, tidyFileName } from "../arrivals/receive.ts";
import { queue, watchedFile } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import { landingStore } from "../ports/adapters.ts";
import { AppError } from "../ports/app-error.ts";
import { now } from "../ports/clock.ts";
import { hashStream } from "../ports/repository.ts";
import { systemCode } from "../ports/system-code.ts";
import { loadDocumentTypes } from "../records/load-types.ts";
import { config } from "../settings/config.ts";
import { loadLimits, loadQueueLimits } from "../settings/load-settings.ts";
import { PROGRAM } from "../timeline/write-lines.ts";
import { tieCodes } from "./tie-codes.ts";
import { eachWatchedFile, isSame, lookAt, putAmongDone, readWatched, removeTaken, type WatchedFile } from "./watched-files.ts";

/** A file is whole when it has not changed for so long, ms. */
export const SETTLE_MS = 3000;
/** Files looked up in one go, and those that are taken side by side. */
const AT_ONCE = 500;
const TAKEN_AT_ONCE = 4;

/** What one look at the watched folders came to. */
export interface Looked {
  readonly taken: number;
  /** Files that still have to settle. */
  readonly waiting: number;
  readonly refused: number;
  /** Queues whose folder cannot be reached. */
  readonly away: readonly string[];
}

/** When each file that is not taken yet was first seen as it is now; of this process. */
export type Settling = Map<string, WatchedFile & { readonly since: number }>;

/** The folder that is watched for a queue. */
export const watchedFolder = (queueKey: string): string => path.join(config().watchedFolder, queueKey);

/**
 * Looks once at every watched folder and takes what is whole: its bytes are kept and it is in the register before anything is done with the loose
 * original, which then stays, is moved to *done*, or is removed after proof. A folder that is away is said to be, and the others go on. Begun again
 * after a kill it takes nothing twice: the same file with the same bytes is the same arrival.
 */
export async function scanFolders(settling: Settling, at = Date.now()): Promise<Looked> {
  const sum = { taken: 0, waiting: 0, refused: 0 };
  const away: string[] = [];
  const queues = await db().select().from(queue).where(isNotNull(queue.watchAfter));
  const seen = new Set<string>();
  // Below our own data it is ours to make; anywhere else it is a share, and one that is not mounted is away.
  if (queues.length > 0 && config().watchedFolder.startsWith(`${config().dataFolder}/`))
    await mkdir(config().watchedFolder, { recursive: true });
  for (const q of queues) {
    const root = watchedFolder(q.key);
    const after = q.watchAfter as WatchAfter;
    try {
      // Made when its root is there; a root that is away is a share that is not mounted, and nothing is made in its place.
      await mkdir(root).catch((error: unknown) => {
        if (systemCode(error) !== "EEXIST") throw error;
      });
      let batch: WatchedFile[] = [];
      const go = async (): Promise<void> => {
        const done = await takeBatch(q.key, root, after, batch, settling, at);
        sum.taken += done.taken;
        sum.waiting += done.waiting;
        sum.refused += done.refused;
        batch = [];
      };
      for await (const file of eachWatchedFile(root)) {
        seen.add(`${q.key}/${file.path}`);
        batch.push(file);
        if (batch.length >= AT_ONCE) await go();
      }
      await go();
    } catch (error) {
      if (!["ENOENT", "ENOTDIR", "EACCES", "EIO", "ESTALE"].includes(systemCode(error) ?? "")) throw error;
      away.push(q.key);
    }
  }
  for (const key of settling.keys()) if (!seen.has(key)) settling.delete(key);
  return { ...sum, away };
}

async function takeBatch(
  queueKey: string,
  root: string,
  after: WatchAfter,
  batch: readonly WatchedFile[],
  settling: Settling,
  at: number,
): Promise<{ taken: number; waiting: number; refused: number }> {
  const counts = { taken: 0, waiting: 0, refused: 0 };
  if (batch.length === 0) return counts;
  const known = new Map(
    (
      await db()
        .select()
        .from(watchedFile)
        .where(and(eq(watchedFile.queue, queueKey), sql`${watchedFile.path} = any(${textArray(batch.map((f) => f.path))}::text[])`))
    ).map((k) => [k.path, k]),
  );
  const whole: WatchedFile[] = [];
  for (const file of batch) {
    const was = known.get(file.path);
    if (was && isSame({ path: was.path, sizeBytes: was.sizeBytes, modifiedMs: was.modifiedMs }, file)) {
      if (was.why !== null) counts.refused++;
      else if (after === "keep") continue;
      // Taken before something stopped us: what was to be done with the original is done now. Another of that name and size is a new one.
      else if (await isStill(root, file, was.sha256)) {
        await settleOriginal(queueKey, root, file, after, parseSha256(was.sha256 ?? ""));
        continue;
      }
      if (was.why !== null && was.why !== "no-space") continue;
    }
    const key = `${queueKey}/${file.path}`;
    const first = settling.get(key);
    if (!first || !isSame(first, file)) settling.set(key, { ...file, since: at });
    if (first && isSame(first, file) && at - first.since >= SETTLE_MS) whole.push(file);
    else counts.waiting++;
  }
  const outcomes = await sideBySide(whole, TAKEN_AT_ONCE, (file) => takeFile(queueKey, root, after, file));
  for (const outcome of outcomes) counts[outcome]++;
  for (const file of whole) settling.delete(`${queueKey}/${file.path}`);
  return counts;
}

async function takeFile(queueKey: string, root: string, after: WatchAfter, file: WatchedFile): Promise<"taken" | "waiting" | "refused"> {
  const note = async (sha256: Sha256 | null, why: string | null): Promise<void> => {
    const values = { sizeBytes: file.sizeBytes, modifiedMs: file.modifiedMs, sha256, why, seenAt: now() };
    await db()
      .insert(watchedFile)
      .values({ queue: queueKey, path: file.path, ...values })
      .onConflictDoUpdate({ target: [watchedFile.queue, watchedFile.path], set: values });
  };
  let stream;
  try {
    stream = await readWatched(root, file.path);
  } catch (error) {
    // Gone again, or changed into something that is not read: the next look sees what is there then.
    if (["ENOENT", "ENOTDIR", "ELOOP", "EACCES"].includes(systemCode(error) ?? "")) return "waiting";
    throw error;
  }
  const kept = await landingStore().keep(stream, ((await loadQueueLimits()).get(queueKey) ?? (await loadLimits())).bytesMax);
  if (!kept.ok) {
    await note(null, kept.refusal.code);
    return "refused";
  }
  // Somebody went on writing while it was read.
  if (!isSame(await lookAt(root, file.path), file)) return "waiting";
  const folders = file.path.split("/").slice(0, -1);
  const tied = await tieCodes(codesInFolders(folders));
  const entered = await enterArrival({
    id: idFrom("watched", `${queueKey}\n${file.path}\n${file.modifiedMs}\n${kept.value.sha256}`),
    landed: kept.value,
    company: tied?.company ?? null,
    queue: queueKey,
    source: "folder",
    sender: null,
    note: folders.length > 0 ? folders.join(" / ").slice(0, 200) : null,
    fileName: tidyFileName(file.path),
    recordId: tied?.recordId ?? null,
    documentType: documentTypeOfFolders(folders, await loadDocumentTypes()),
    receivedBy: PROGRAM,
    mail: null,
  });
  if (!entered.ok) throw new AppError("not-entered", "later", entered.refusal.code);
  await note(kept.value.sha256, null);
  await settleOriginal(queueKey, root, file, after, kept.value.sha256);
  return "taken";
}

/** Does with a loose original what the queue wants, once its bytes are proven to be kept. */
async function settleOriginal(queueKey: string, root: string, file: WatchedFile, after: WatchAfter, sha256: Sha256): Promise<void> {
  if (after === "keep") return;
  if (after === "done") await putAmongDone(root, file);
  else await removeProven(root, file, sha256);
  // Gone from here: what comes under its name from now on is another file.
  await db()
    .delete(watchedFile)
    .where(and(eq(watchedFile.queue, queueKey), eq(watchedFile.path, file.path)));
}

async function isStill(root: string, file: WatchedFile, sha256: string | null): Promise<boolean> {
  return sha256 !== null && (await hashStream(await readWatched(root, file.path)).catch(() => null)) === sha256;
}

async function removeProven(root: string, file: WatchedFile, sha256: Sha256): Promise<void> {
  // Read back from where it is kept, not believed: until then there are two, after it one (promise 1).
  if ((await hashStream(landingStore().read(sha256))) !== sha256) throw new AppError("landing-wrong", "later", "kept bytes differ");
  await removeTaken(root, file, sha256);
}
