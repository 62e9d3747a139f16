import { z } from "zod";
import { asc, desc, eq, isNotNull } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { type MailKeeps, type QueueMail, queueMailSchema } from "#core/arrivals/mail-in.ts";
import { type WatchAfter, watchAfters } from "#core/arrivals/watched-folder.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { queue, watchedFile } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { config } from "../settings/config.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { watchedFolder } from "./watch-folders.ts";

/** Files that are not taken which Set-up shows. */
const REFUSED_MAX = 100;

/** What becomes of files in a queue's watched folder; null watches none. */
export const queueFolderSchema = z.object({ after: z.enum(watchAfters).nullable() });

/** A queue as Set-up shows it. */
export interface QueueAnswer extends QueueMail {
  readonly key: string;
  readonly label: string;
  /** Address that mail to it is sent to; null where no mail is taken in. */
  readonly address: string | null;
  /** The folder that is watched for it, or would be. */
  readonly folder: string;
  readonly watchAfter: WatchAfter | null;
  /** Files in it that are not taken, the latest first, and why. */
  readonly refused: readonly { readonly path: string; readonly why: string }[];
}

/** Every queue with how it takes mail. Refuses not-allowed. */
export async function listQueueMail(actor: Actor): Promise<Result<{ items: readonly QueueAnswer[] }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const { port, domain } = config().mail;
  const rows = await db().select().from(queue).orderBy(asc(queue.order));
  const refused = await db()
    .select({ queue: watchedFile.queue, path: watchedFile.path, why: watchedFile.why })
    .from(watchedFile)
    .where(isNotNull(watchedFile.why))
    .orderBy(desc(watchedFile.seenAt))
    .limit(REFUSED_MAX);
  return ok({
    items: rows.map((q) => ({
      key: q.key,
      label: q.label,
      address: port === null ? null : `${q.key}@${domain}`,
      keeps: q.mailKeeps as MailKeeps,
      senders: q.mailSenders,
      folder: watchedFolder(q.key),
      watchAfter: q.watchAfter as WatchAfter | null,
      refused: refused.filter((r) => r.queue === q.key).map((r) => ({ path: r.path, why: r.why ?? "" })),
    })),
  });
}

/** Sets how a queue takes mail; it holds from the next message on. Refuses not-allowed and unknown-queue. */
export async function saveQueueMail(actor: Actor, key: string, wish: QueueMail): Promise<Result<QueueMail>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const { keeps, senders } = queueMailSchema.parse(wish);
  return db().transaction(async (tx) => {
    const done = await tx
      .update(queue)
      .set({ mailKeeps: keeps, mailSenders: [...new Set(senders)] })
      .where(eq(queue.key, key))
      .returning({ label: queue.label });
    if (!done[0]) return refuse("unknown-queue");
    await writeLines(tx, [{ verb: "queueChanged", who: actor.id, details: { label: done[0].label } }]);
    return ok({ keeps, senders });
  });
}

/** Sets what becomes of files in a queue's watched folder, or that none is watched. Refuses not-allowed and unknown-queue. */
export async function saveQueueFolder(
  actor: Actor,
  key: string,
  wish: z.infer<typeof queueFolderSchema>,
): Promise<Result<{ folder: string }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  return db().transaction(async (tx) => {
    const done = await tx.update(queue).set({ watchAfter: wish.after }).where(eq(queue.key, key)).returning({ label: queue.label });
    if (!done[0]) return refuse("unknown-queue");
    await writeLines(tx, [{ verb: "queueChanged", who: actor.id, details: { label: done[0].label } }]);
    return ok({ folder: watchedFolder(key) });
  });
}
