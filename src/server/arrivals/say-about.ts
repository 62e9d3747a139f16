import { eq } from "drizzle-orm";
import { z } from "zod";
import { openStates } from "#core/arrivals/journey.ts";
import { allowsAnywhere } from "#core/access/grants.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { suggestAgain } from "../matching/suggest-again.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { withLockedArrival } from "./with-locked-arrival.ts";
import { arrival } from "./tables.ts";

/** What somebody says of an arrival: what is left out stays, null takes it off. */
export const saySchema = z.object({
  documentType: z.string().max(40).nullable().optional(),
  record: z
    .object({ company: z.string().max(20), type: z.string().max(40), key: z.string().max(120) })
    .nullable()
    .optional(),
});

/**
 * Says what an arrival is and which record it belongs to, without filing it: for whoever sent it and may not file, and for those who may. Refuses not-found,
 * not-allowed (it is somebody else's), stale (it no longer waits), unknown-type, unknown-record (also one that the person may not see).
 */
export async function sayAbout(actor: Actor, id: ArrivalId, said: z.infer<typeof saySchema>): Promise<Result<{ readonly done: true }>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    if (row.receivedBy !== actor.id && !allowsAnywhere(actor.grants, "file")) return refuse("not-allowed");
    if (!(openStates as readonly string[]).includes(row.state)) return refuse("stale");
    const sees = actor.grants.some(
      (g) => g.actions.includes("see") && (g.documentTypes === "all" || g.documentTypes.includes(said.documentType ?? "")),
    );
    const type = said.documentType && sees ? await loadDocumentType(said.documentType, tx) : null;
    if (said.documentType && !type) return refuse("unknown-type", said.documentType);
    const found = said.record ? await findVisibleRecord(actor, said.record.type, said.record.key, said.record.company) : null;
    if (said.record && !found) return refuse("unknown-record", `${said.record.type} ${said.record.key}`);
    // What was said of another company does not hold for it.
    if (found && row.company !== null && row.company !== found.company)
      return refuse("bad-input", undefined, [{ path: "record", message: "belongs to another company" }]);
    await tx
      .update(arrival)
      .set({
        ...(said.documentType === undefined ? {} : { documentType: said.documentType }),
        ...(said.record === undefined ? {} : { recordId: found?.id ?? null }),
      })
      .where(eq(arrival.id, row.id));
    if (found)
      await writeLines(tx, [
        { verb: "tied", who: actor.id, company: row.company, arrivalId: id, recordId: found.id, details: { record: found.key } },
      ]);
    if (type)
      await writeLines(tx, [
        { verb: "typeSaid", who: actor.id, company: row.company, arrivalId: id, details: { documentType: type.label } },
      ]);
    await suggestAgain(tx, id);
    return ok({ done: true as const });
  });
}
