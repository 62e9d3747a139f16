import { and, eq, inArray } from "drizzle-orm";
import type { MailAnswer } from "#core/arrivals/mail-in.ts";
import { openStates } from "#core/arrivals/journey.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { withLockedArrival } from "./with-locked-arrival.ts";
import { arrival } from "./tables.ts";
import type { MailFacts } from "./receive.ts";

/**
 * A person's word on a message whose queue asks: what is not kept is set aside and stays in the register. Parts that were taken up already are left
 * alone. Twice is once. Refuses stale when the message waits no more.
 */
export async function keepOfMail(actor: Actor, id: ArrivalId, keeps: MailAnswer): Promise<Result<{ state: string }>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    const isOpen = (openStates as readonly string[]).includes(row.state);
    if (!isOpen && !(keeps === "partsOnly" && row.state === "setAside")) return refuse("stale");
    const mail = row.mail as MailFacts | null;
    await tx
      .update(arrival)
      .set({ mail: mail ? { ...mail, asks: false } : null })
      .where(eq(arrival.id, id));
    if (keeps === "messageAndParts" || !isOpen) return ok({ state: row.state });
    const reason = keeps === "partsOnly" ? "its attachments are kept" : "the message is kept";
    const aside = await tx
      .update(arrival)
      .set({ state: "setAside", endedAt: now(), endedBy: actor.id, endReason: reason })
      .where(and(keeps === "partsOnly" ? eq(arrival.id, id) : eq(arrival.parentId, id), inArray(arrival.state, [...openStates])))
      .returning({ id: arrival.id, company: arrival.company });
    await writeLines(
      tx,
      aside.map((a) => ({ verb: "setAside" as const, who: actor.id, company: a.company, arrivalId: a.id, details: { reason } })),
    );
    return ok({ state: keeps === "partsOnly" ? "setAside" : row.state });
  });
}
