import { watch, type FSWatcher } from "chokidar";
import { sql } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { describeError } from "../db/describe-error.ts";
import { listConnectionsInUse, openRepository } from "../filing-plan/open-repository.ts";
import { isPlanCarried } from "../filing-plan/plan-step.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import type { Scanned } from "./scan.ts";

/** A repository is looked through no more often than this, ms; a large one less often: a look takes no more than a twentieth of the time. */
const LOOK_EVERY_MS = 15_000;
const SHARE = 20;
/** Up to so many folders their own change events are listened to; beyond that looking through is cheaper for the system. */
const LISTENED_FOLDERS_MAX = 4000;
/** After an event others are waited for this long before a look, ms. */
const QUIET_MS = 700;

/**
 * While a move plan is carried out no look begins for so long, ms: what it would compare is about to be somewhere else. A plan that waits, such as for a
 * repository that is away, holds nothing up: the look finds that it is back.
 */
const GIVES_WAY_MS = 10 * 60_000;

/** What the last look at a connection found, and whether it is time for the next one. */
export async function lastLook(key: string): Promise<{ readonly last: Scanned | null; readonly isDue: boolean }> {
  const { rows } = await db().execute<{ last: Scanned | null; age: number | null; is_moving: boolean }>(sql`select scanned as last,
    extract(epoch from ${now()}::timestamptz - scanned_at)::float8 * 1000 as age,
    ${isPlanCarried} as is_moving from connection where key = ${key}`);
  const { last = null, age = null, is_moving: isMoving = false } = rows[0] ?? {};
  const every = Math.max(LOOK_EVERY_MS, (last?.tookMs ?? 0) * SHARE);
  return { last, isDue: age === null || (age > every && !(isMoving && age < GIVES_WAY_MS)) };
}

/** Asks for a look at a connection now. */
export async function scanSoon(actor: Actor, key: string): Promise<Result<{ queued: true }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  if (!(await listConnectionsInUse()).some((c) => c.key === key)) return refuse("not-found");
  await queueScan(key);
  return ok({ queued: true });
}

async function queueScan(key: string): Promise<void> {
  await addJob(db(), "scan", { connection: key }, { key: `scan:${key}`, queue: `scan:${key}`, priority: 2 });
}

/** Watches every connection that is to be watched: by its change events where there are some and they are not too many, and by looking it through now and then. Answers how to end it. */
export function watchRepositories(): { readonly end: () => Promise<void> } {
  const listened = new Map<string, FSWatcher>();
  const quiet = new Map<string, NodeJS.Timeout>();
  let ended = false;
  const round = async (): Promise<void> => {
    for (const { key, kind, options } of await listConnectionsInUse()) {
      if (ended) return;
      if (!options.isWatched) continue;
      const { last, isDue } = await lastLook(key);
      if (isDue) await queueScan(key);
      const isSmall = last !== null && last.why === null && last.folders <= LISTENED_FOLDERS_MAX;
      if (kind === "disk" && !listened.has(key) && isSmall) await listen(key);
      // It has grown meanwhile: a listener keeps every folder and file in memory.
      if (last && last.folders > LISTENED_FOLDERS_MAX) {
        await listened.get(key)?.close();
        listened.delete(key);
      }
    }
    // Kept current by the hour: what was decided long ago need not be listed for ever.
    await db().execute(sql`delete from finding where state = 'decided' and changed_at < now() - interval '90 days'`);
  };
  const listen = async (key: string): Promise<void> => {
    const repository = await openRepository(key);
    const watcher = watch(repository.locationOf(""), {
      ignoreInitial: true,
      followSymlinks: false,
      ignored: (p) => /\/\.[^/]*$/.test(p) && !p.endsWith(repository.locationOf("")),
    });
    watcher.on("all", () => {
      clearTimeout(quiet.get(key));
      quiet.set(
        key,
        setTimeout(() => void queueScan(key).catch((error: unknown) => console.error(`watch: ${describeError(error)}`)), QUIET_MS),
      );
    });
    // Too many watches for the system: looking through goes on without them.
    watcher.on("error", () => {});
    listened.set(key, watcher);
  };
  const go = (): void => void round().catch((error: unknown) => console.error(`watch: ${describeError(error)}`));
  const timer = setInterval(go, LOOK_EVERY_MS / 3);
  go();
  return {
    async end() {
      ended = true;
      clearInterval(timer);
      for (const t of quiet.values()) clearTimeout(t);
      await Promise.all([...listened.values()].map((w) => w.close()));
    },
  };
}
