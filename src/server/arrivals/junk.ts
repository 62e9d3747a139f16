import { desc, eq } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { addressOf } from "#core/arrivals/mail-in.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db, type Tx } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { arrival, junkSender } from "./tables.ts";

/** A sender whose mail is marked as junk. */
export interface JunkSender {
  readonly address: string;
  readonly taughtAt: string;
}

/** Teaches that what an arrival's sender sends is junk: it is marked from now on, and stays. One without an address teaches nothing. */
export async function teachJunk(tx: Tx, actor: Actor, row: typeof arrival.$inferSelect): Promise<void> {
  const address = addressOf(row.sender ?? "");
  if (address === null) return;
  const made = await tx
    .insert(junkSender)
    .values({ address, arrivalId: row.id, taughtAt: now(), taughtBy: actor.id })
    .onConflictDoNothing()
    .returning({ address: junkSender.address });
  if (made[0])
    await writeLines(tx, [{ verb: "junkTaught", who: actor.id, company: row.company, arrivalId: row.id, details: { sender: address } }]);
}

/** Takes back what an arrival taught, when it is restored. */
export async function forgetTaughtBy(tx: Tx, actor: Actor, row: typeof arrival.$inferSelect): Promise<void> {
  const gone = await tx.delete(junkSender).where(eq(junkSender.arrivalId, row.id)).returning({ address: junkSender.address });
  if (gone[0])
    await writeLines(tx, [
      { verb: "junkForgotten", who: actor.id, company: row.company, arrivalId: row.id, details: { sender: gone[0].address } },
    ]);
}

/** Whether what a sender sends was said to be junk. */
export async function isJunkSender(tx: Tx, sender: string): Promise<boolean> {
  const address = addressOf(sender);
  if (address === null) return false;
  return (await tx.select({ address: junkSender.address }).from(junkSender).where(eq(junkSender.address, address))).length > 0;
}

/** Senders that were said to send junk, latest first; only for those who manage. */
export async function listJunkSenders(actor: Actor): Promise<Result<{ items: readonly JunkSender[] }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const rows = await db().select().from(junkSender).orderBy(desc(junkSender.taughtAt)).limit(500);
  return ok({ items: rows.map((r) => ({ address: r.address, taughtAt: r.taughtAt.toISOString() })) });
}

/** Forgets one. Twice is once. */
export async function forgetJunkSender(actor: Actor, address: string): Promise<Result<{ items: readonly JunkSender[] }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  await db().transaction(async (tx) => {
    const gone = await tx
      .delete(junkSender)
      .where(eq(junkSender.address, address.toLowerCase()))
      .returning({ arrivalId: junkSender.arrivalId });
    if (gone[0])
      await writeLines(tx, [
        {
          verb: "junkForgotten",
          who: actor.id,
          ...(gone[0].arrivalId ? { arrivalId: gone[0].arrivalId } : {}),
          details: { sender: address },
        },
      ]);
  });
  return listJunkSenders(actor);
}
