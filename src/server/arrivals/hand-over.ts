import { asc, eq, sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { withLockedArrival } from "./with-locked-arrival.ts";
import { claimedByOther } from "./claim.ts";
import { arrival, queue } from "./tables.ts";

/** To whom an arrival is handed: a person, or a queue. */
export interface HandOver {
  readonly person?: string | undefined;
  readonly queue?: string | undefined;
  readonly word: string;
}

/** To whom one can hand over: queues, and people who have to do with one's own companies. */
export interface HandOverTargets {
  readonly queues: readonly { readonly key: string; readonly label: string }[];
  readonly people: readonly { readonly id: string; readonly name: string }[];
}

/** People and queues that something can be handed to. */
export async function listTargets(actor: Actor): Promise<HandOverTargets> {
  const companies = [...new Set(actor.grants.map((g) => g.company))];
  const [queues, people] = await Promise.all([
    db().select({ key: queue.key, label: queue.label }).from(queue).orderBy(asc(queue.order)),
    companies.length === 0
      ? { rows: [] }
      : db().execute<{ id: string; name: string }>(sql`select u.id, u.name from "user" u where u.id <> ${actor.id} and exists (
          select from person_role r join role on role.key = r.role_key where r.person_id = u.id and r.company in (${sql.join(
            companies.map((c) => sql`${c}`),
            sql`, `,
          )}) and role.grants @? '$[*].actions[*] ? (@ == "file")') order by u.name`),
  ]);
  return { queues, people: people.rows.map((p) => ({ id: p.id, name: p.name })) };
}

/**
 * Hands an arrival over with a word. To a queue it moves there; to a person it stays where it is and stands under their name, and they see it whether
 * or not they are members. Refuses stale, claimed, unknown-queue, not-found (no such person to hand it to).
 */
export async function handOver(actor: Actor, id: ArrivalId, wish: HandOver): Promise<Result<{ state: string }>> {
  const targets = await listTargets(actor);
  const person = wish.person === undefined ? null : targets.people.find((p) => p.id === wish.person);
  const to = wish.queue === undefined ? null : targets.queues.find((q) => q.key === wish.queue);
  if (person === undefined || (person === null && !to)) return refuse(wish.queue === undefined ? "not-found" : "unknown-queue");
  return withLockedArrival(actor, id, async (tx, row) => {
    if (!(openStates as readonly string[]).includes(row.state)) return refuse("stale");
    const other = await claimedByOther(tx, actor, row);
    if (other !== null) return refuse("claimed", other);
    await tx
      .update(arrival)
      .set({
        ...(to ? { queue: to.key } : {}),
        handedTo: person?.id ?? null,
        handedBy: actor.id,
        handedWord: wish.word || null,
        handedAt: now(),
        claimedBy: null,
        claimedUntil: null,
      })
      .where(eq(arrival.id, id));
    const whom = person ? person.name : (to?.label ?? "");
    await writeLines(tx, [{ verb: "handedOver", who: actor.id, company: row.company, arrivalId: id, details: { whom, word: wish.word } }]);
    return ok({ state: row.state });
  });
}
