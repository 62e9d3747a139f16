import { and, eq, sql } from "drizzle-orm";
import { linesOf } from "#core/records/record-line.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { db } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import { sendToBusinessSystem } from "../ports/business-system.ts";
import { record } from "../records/tables.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { settleDraft } from "./settle-draft.ts";
import { draft } from "./tables.ts";

/** Waits between tries: five seconds, ten, twenty … up to this, seconds. Nothing is given up on. */
const WAIT_MAX_SECONDS = 300;
const WAIT_FIRST_SECONDS = 5;

/** How often a draft looks whether the account it belongs to has its number, seconds; it is told at once, too. */
const PARENT_SECONDS = 15;

/** Whether the account that a draft belongs to was made here and has no number yet: the business system would not know it. Then the draft waits and says so. */
async function waitsForParent(draftId: string, parentId: number | null): Promise<boolean> {
  if (parentId === null) return false;
  const parent = (
    await db()
      .select({ state: draft.state, key: record.key })
      .from(draft)
      .innerJoin(record, eq(record.id, draft.recordId))
      .where(eq(draft.recordId, parentId))
  )[0];
  if (!parent || parent.state === "accepted") return false;
  await db().transaction(async (tx) => {
    await tx
      .update(draft)
      .set({ problem: `waits until ${parent.key} is entered`, nextTryAt: new Date(now().getTime() + PARENT_SECONDS * 1000) })
      .where(and(eq(draft.id, draftId), eq(draft.state, "sending")));
    await addJob(tx, "sendDraft", { draftId }, { key: `sendDraft:${draftId}`, afterSeconds: PARENT_SECONDS });
  });
  return true;
}

/**
 * Sends a draft and keeps what came of it: its number, why it was refused, or why there was no answer and when it is tried again. Nothing happens to one
 * that does not wait to be sent. Safe to repeat: the business system knows drafts by their id.
 */
export async function sendDraft(draftId: string): Promise<void> {
  const found = (
    await db().select({ draft, record }).from(draft).innerJoin(record, eq(record.id, draft.recordId)).where(eq(draft.id, draftId))
  )[0];
  if (found?.draft.state !== "sending") return;
  if (await waitsForParent(found.draft.id, found.record.parentId)) return;
  // From here on it may be there: whoever takes it back at this moment comes first, or not at all.
  const begun = await db()
    .update(draft)
    .set({ begunAt: sql`coalesce(begun_at, ${now()})` })
    .where(and(eq(draft.id, draftId), eq(draft.state, "sending")))
    .returning({ id: draft.id });
  if (!begun[0]) return;
  const { record: row } = found;
  const parent =
    row.parentId === null
      ? null
      : ((await db().select({ type: record.type, key: record.key }).from(record).where(eq(record.id, row.parentId)))[0] ?? null);
  const paper = (
    await db().execute<{ code: string }>(
      sql`select d.code from arrival a join document d on d.id = a.document_id where a.id = ${found.draft.arrivalId}::uuid`,
    )
  ).rows[0];
  const answer = await sendToBusinessSystem(draftId, {
    company: row.company,
    type: row.type,
    title: row.title,
    fields: Object.fromEntries(
      Object.entries(row.fields as FieldValues).map(([k, v]) => [k, typeof v === "boolean" ? (v ? "yes" : "no") : v]),
    ),
    lines: row.lines === null ? null : linesOf(row.lines).map((l) => ({ ...l })),
    parent,
    follows: found.draft.follows as { type: string; key: string }[],
    paper: paper ?? null,
  });
  if (answer.kind === "accepted") return void (await settleDraft(draftId, answer.number, answer.status));
  if (answer.kind === "refused") {
    await db().transaction(async (tx) => {
      // An answer that came by the web hook meanwhile is the later one.
      const changed = await tx
        .update(draft)
        .set({ state: "refused", reasons: answer.reasons, problem: null, nextTryAt: null, answeredAt: now(), attempts: sql`attempts + 1` })
        .where(sql`${draft.id} = ${draftId} and ${draft.state} = 'sending'`)
        .returning({ id: draft.id });
      if (changed.length > 0)
        await writeLines(tx, [
          {
            verb: "draftRefused",
            who: PROGRAM,
            company: row.company,
            recordId: row.id,
            details: { why: answer.reasons[0]?.message ?? "" },
          },
        ]);
    });
    return;
  }
  const wait = Math.min(WAIT_MAX_SECONDS, WAIT_FIRST_SECONDS * 2 ** Math.min(found.draft.attempts, 10));
  await db().transaction(async (tx) => {
    await tx
      .update(draft)
      .set({ problem: answer.why, attempts: sql`attempts + 1`, nextTryAt: new Date(now().getTime() + wait * 1000) })
      .where(sql`${draft.id} = ${draftId} and ${draft.state} = 'sending'`);
    await addJob(tx, "sendDraft", { draftId }, { key: `sendDraft:${draftId}`, afterSeconds: wait });
  });
}
