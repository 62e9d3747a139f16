import { createHmac } from "node:crypto";
import { and, eq } from "drizzle-orm";
import { isHeldBack } from "#core/automatic-filing/automatic-filing-rule.ts";
import { parseArrivalId } from "#core/shared/brand.ts";
import { arrival } from "../arrivals/tables.ts";
import { fileWithoutSheets } from "../codes/file-without-sheets.ts";
import { db } from "../db/connect.ts";
import { fileAway } from "../documents/file-away.ts";
import { programWithRightsOf } from "../people/program-actor.ts";
import { now } from "../ports/clock.ts";
import { decideFor } from "./decide-for.ts";
import { automaticFiling, automaticFilingCase } from "./tables.ts";

/**
 * Files an arrival without a person, where its queue and type have automatic filing and it is sure, complete and without a clash; one of the sample is held back
 * instead. Whatever somebody works on, or has taken up meanwhile, is left alone. Safe to repeat.
 */
export async function fileAutomatically(arrivalIdText: string): Promise<void> {
  const id = parseArrivalId(arrivalIdText);
  const row = id ? (await db().select().from(arrival).where(eq(arrival.id, id)))[0] : undefined;
  if (!id || row?.state !== "ready") return;
  const known = (
    await db().select({ how: automaticFilingCase.how }).from(automaticFilingCase).where(eq(automaticFilingCase.arrivalId, id))
  )[0];
  // What was decided on once is not decided on again: a document that was taken back is for a person.
  if (known) return;
  const rules = await db()
    .select()
    .from(automaticFiling)
    .where(and(eq(automaticFiling.queue, row.queue), eq(automaticFiling.isOn, true)));
  for (const rule of rules) {
    const lender = await programWithRightsOf(rule.lentBy, row.queue);
    const decision = lender ? await decideFor(lender, id) : null;
    if (!lender || decision?.documentType !== rule.documentType) continue;
    const { decided, why } = decision;
    if (!decided || why !== null) return;
    const values = { arrivalId: id, queue: row.queue, documentType: rule.documentType, wouldFile: true, why: null, decided, at: now() };
    if (isHeldBack(lotOf(rule.secret, id), rule)) {
      await db()
        .insert(automaticFilingCase)
        .values({ ...values, how: "sample", state: "waiting" })
        .onConflictDoNothing();
      return;
    }
    const filing = { documentType: decided.documentType, clips: [decided.record], properties: decided.properties };
    await fileWithoutSheets(lender, id, (pages) =>
      fileAway(lender, pages, filing, {
        mayBeRepeat: true,
        // Named at once: the list of the day and taking it back must not wait for the check that follows.
        after: async (tx, documentId) => {
          await tx.insert(automaticFilingCase).values({ ...values, arrivalId: pages, documentId, how: "filed", state: "filed" });
        },
      }),
    );
    return;
  }
}

/** A number from 0 to 1 that a paper's id and a secret give: always the same, and not to be guessed. */
export function lotOf(secret: string, arrivalId: string): number {
  return createHmac("sha256", secret).update(arrivalId).digest().readUIntBE(0, 6) / 2 ** 48;
}
