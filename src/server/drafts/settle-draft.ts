import { and, eq, sql } from "drizzle-orm";
import { db, type Tx } from "../db/connect.ts";
import { followTitles } from "../documents/follow-title.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import { renumberRecord } from "../records/renumber-record.ts";
import { record } from "../records/tables.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { draft } from "./tables.ts";

/**
 * The business system has entered a draft under a number: the record gets that number, its documents stay with it and its folder follows. Answers the
 * record's id; null when there is no such draft. The answer and the web hook may both say so, in any order: twice is once.
 */
export async function settleDraft(draftId: string, number: string, status: string | null): Promise<number | null> {
  return db().transaction((tx) => settleIn(tx, draftId, number, status));
}

/** The same in the caller's transaction. */
export async function settleIn(tx: Tx, draftId: string, number: string, status: string | null): Promise<number | null> {
  const found = (await tx.select().from(draft).where(eq(draft.id, draftId)).for("update"))[0];
  if (!found) return null;
  if (found.state === "accepted") return found.recordId;
  const was = (await tx.select().from(record).where(eq(record.id, found.recordId)))[0];
  const recordId = await renumberRecord(tx, found.recordId, number, status ?? "entered");
  if (was) await followTitles(tx, recordId, was);
  await tx
    .update(draft)
    .set({ state: "accepted", recordId, reasons: [], problem: null, nextTryAt: null, answeredAt: now(), attempts: sql`attempts + 1` })
    .where(eq(draft.id, draftId));
  const row = (await tx.select({ company: record.company }).from(record).where(eq(record.id, recordId)))[0];
  await writeLines(tx, [{ verb: "draftAccepted", who: PROGRAM, company: row?.company ?? null, recordId, details: { number } }]);
  // Those that were made together with it and belong to it waited for its number.
  const waiting = await tx
    .select({ id: draft.id })
    .from(draft)
    .innerJoin(record, eq(record.id, draft.recordId))
    .where(and(eq(record.parentId, recordId), eq(draft.state, "sending")));
  for (const { id } of waiting) await addJob(tx, "sendDraft", { draftId: id }, { key: `sendDraft:${id}` });
  // Where its folder is called by its number, the folder follows.
  await addJob(tx, "followNumber", { draftId }, { key: `followNumber:${draftId}`, afterSeconds: 1 });
  return recordId;
}
