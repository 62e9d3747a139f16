import { and, eq, sql } from "drizzle-orm";
import type { ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { openStates } from "#core/arrivals/journey.ts";
import { db, type Tx } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { user } from "../people/tables.ts";
import { analyseSooner } from "../reading/enqueue-analysis.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { withLockedArrival } from "./with-locked-arrival.ts";
import { arrival } from "./tables.ts";

/** A claim ends by itself after this, ms; whoever works on says so again before. */
export const CLAIM_MS = 90_000;

/** Who works on an arrival just now. */
export interface Claim {
  readonly id: string;
  readonly name: string;
  readonly until: string;
}

/**
 * Says that a person works on an arrival, so that nobody else files it meanwhile. Again from the same person it lasts longer. With `takeOver` it is
 * taken from whoever has it, which is on the timeline. Refuses claimed with the name of who has it; stale when it no longer waits.
 */
export async function claim(actor: Actor, id: ArrivalId, takeOver: boolean): Promise<Result<Claim>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    if (!(openStates as readonly string[]).includes(row.state)) return refuse("stale");
    const other = await claimedByOther(tx, actor, row);
    if (other !== null && !takeOver) return refuse("claimed", other);
    const until = new Date(now().getTime() + CLAIM_MS);
    await tx.update(arrival).set({ claimedBy: actor.id, claimedUntil: until }).where(eq(arrival.id, id));
    if (["waiting", "reading"].includes(row.state)) await analyseSooner(tx, row.sha256);
    if (other !== null)
      await writeLines(tx, [{ verb: "takenOver", who: actor.id, company: row.company, arrivalId: id, details: { whom: other } }]);
    return ok({ id: actor.id, name: actor.name, until: until.toISOString() });
  });
}

/** Ends one's own claim; somebody else's is left alone. */
export async function letGo(actor: Actor, id: ArrivalId): Promise<Result<{ done: boolean }>> {
  const done = await db()
    .update(arrival)
    .set({ claimedBy: null, claimedUntil: null })
    .where(and(eq(arrival.id, id), eq(arrival.claimedBy, actor.id)))
    .returning({ id: arrival.id });
  return ok({ done: done.length > 0 });
}

/** The name of somebody else who works on an arrival; null when nobody does, or their claim has ended. */
export async function claimedByOther(tx: Tx, actor: Actor, row: typeof arrival.$inferSelect): Promise<string | null> {
  if (row.claimedBy === null || row.claimedBy === actor.id || row.claimedUntil === null || row.claimedUntil <= now()) return null;
  const person = (await tx.select({ name: user.name }).from(user).where(eq(user.id, row.claimedBy)))[0];
  return person?.name ?? null;
}

/** Condition for arrivals that nobody but this person works on. */
export const notClaimedByOther = (actor: Actor) =>
  sql`(${arrival.claimedBy} is null or ${arrival.claimedBy} = ${actor.id} or ${arrival.claimedUntil} <= ${now()})`;
