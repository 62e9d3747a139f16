import { asc, eq } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { type MailKeeps, type QueueMail, queueMailSchema } from "#core/arrivals/mail-in.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { queue } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { config } from "../settings/config.ts";
import { writeLines } from "../timeline/write-lines.ts";

/** A queue as Set-up shows it. */
export interface QueueAnswer extends QueueMail {
  readonly key: string;
  readonly label: string;
  /** Address that mail to it is sent to; null where no mail is taken in. */
  readonly address: string | null;
}

/** Every queue with how it takes mail. Refuses not-allowed. */
export async function listQueueMail(actor: Actor): Promise<Result<{ items: readonly QueueAnswer[] }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const { port, domain } = config().mail;
  const rows = await db().select().from(queue).orderBy(asc(queue.order));
  return ok({
    items: rows.map((q) => ({
      key: q.key,
      label: q.label,
      address: port === null ? null : `${q.key}@${domain}`,
      keeps: q.mailKeeps as MailKeeps,
      senders: q.mailSenders,
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
