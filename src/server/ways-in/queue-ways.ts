import { z } from "zod";
import { asc, desc, eq, inArray, isNotNull } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { type MailKeeps, type QueueMail, queueMailSchema } from "#core/arrivals/mail-in.ts";
import { type QueueLimits, queueLimitsSchema } from "#core/arrivals/limits.ts";
import { type WatchAfter, watchAfters } from "#core/arrivals/watched-folder.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { queue, watchedFile } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { user } from "../people/tables.ts";
import { parseQueueLimits } from "../settings/load-settings.ts";
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
  /** Who allowed that documents are filed by what their codes say; null when nobody did. */
  readonly codesBy: string | null;
  readonly leavesOutBlanks: boolean;
  /** What it narrows the general limits to. */
  readonly limits: QueueLimits;
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
  const lenders = rows.flatMap((q) => (q.codesBy === null ? [] : [q.codesBy]));
  const names = new Map(
    lenders.length === 0
      ? []
      : (await db().select({ id: user.id, name: user.name }).from(user).where(inArray(user.id, lenders))).map((p) => [p.id, p.name]),
  );
  return ok({
    items: rows.map((q) => ({
      key: q.key,
      label: q.label,
      address: port === null ? null : `${q.key}@${domain}`,
      keeps: q.mailKeeps as MailKeeps,
      senders: q.mailSenders,
      folder: watchedFolder(q.key),
      watchAfter: q.watchAfter as WatchAfter | null,
      codesBy: q.codesBy === null ? null : (names.get(q.codesBy) ?? "a deleted person"),
      leavesOutBlanks: q.leavesOutBlanks,
      limits: parseQueueLimits(q.limits) ?? {},
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

/** What a queue does with documents by itself, and what it takes in. */
export const queueIntakeSchema = z.object({
  /** Whether documents are filed by what their cover sheets and labels say, with the rights of whoever allows it. */
  filesByCodes: z.boolean(),
  leavesOutBlanks: z.boolean(),
  limits: queueLimitsSchema,
});

/** Sets that; it holds for documents that are read from then on. Refuses not-allowed and unknown-queue. */
export async function saveQueueIntake(
  actor: Actor,
  key: string,
  wish: z.infer<typeof queueIntakeSchema>,
): Promise<Result<{ codesBy: string | null }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  return db().transaction(async (tx) => {
    const now = (await tx.select().from(queue).where(eq(queue.key, key)).for("update"))[0];
    if (!now) return refuse("unknown-queue");
    // Who allowed it first goes on lending their rights; switched off and on again, it is whoever switches it on.
    const codesBy = wish.filesByCodes ? (now.codesBy ?? actor.id) : null;
    const limits = Object.keys(wish.limits).length > 0 ? wish.limits : null;
    await tx.update(queue).set({ codesBy, leavesOutBlanks: wish.leavesOutBlanks, limits }).where(eq(queue.key, key));
    await writeLines(tx, [{ verb: "queueChanged", who: actor.id, details: { label: now.label } }]);
    return ok({ codesBy });
  });
}
