import { eq, sql } from "drizzle-orm";
import { allowsDocument } from "#core/access/grants.ts";
import type { DocumentCode } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter } from "../access/filters.ts";
import { accessClass } from "../access/tables.ts";
import { db } from "../db/connect.ts";
import { placement } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { document } from "./tables.ts";

/** Has a document whose placing failed placed again. Nothing happens to one that stands where it should. */
export async function placeAgain(actor: Actor, code: DocumentCode): Promise<Result<{ state: string }>> {
  const filter = await documentFilter(actor);
  return db().transaction(async (tx) => {
    const found = (
      await tx
        .select({ document, cls: accessClass, place: placement })
        .from(document)
        .innerJoin(accessClass, eq(accessClass.id, document.aclId))
        .innerJoin(placement, eq(placement.documentId, document.id))
        .where(sql`${eq(document.code, code)} and ${filter}`)
    )[0];
    if (!found) return refuse("not-found");
    if (!allowsDocument(actor.grants, "file", found.cls)) return refuse("not-allowed");
    if (found.place.state !== "failed") return ok({ state: found.place.state });
    await tx.update(placement).set({ state: "waiting", why: null }).where(eq(placement.documentId, found.document.id));
    await writeLines(tx, [{ verb: "triedAgain", who: actor.id, company: found.document.company, documentId: found.document.id }]);
    await addJob(tx, "place", { documentId: found.document.id }, { key: `place:${found.document.id}` });
    return ok({ state: "waiting" });
  });
}
