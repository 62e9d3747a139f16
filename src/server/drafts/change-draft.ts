import { and, eq, inArray, isNull, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsRecord } from "#core/access/grants.ts";
import { draftFields } from "#core/drafts/fill-draft.ts";
import { parseFieldValues } from "#core/records/parse-field-values.ts";
import { parseDocumentCode } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db, type Tx } from "../db/connect.ts";
import { unfile } from "../documents/unfile.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadRecordType } from "../records/load-types.ts";
import { record } from "../records/tables.ts";
import { recordInputSchema, upsertIn } from "../records/upsert-record.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { loadDraft } from "./list-drafts.ts";
import { draft } from "./tables.ts";

export const draftChangeSchema = z.object({
  title: z.string().trim().min(1).max(300).optional(),
  fields: z.record(z.string(), z.unknown()).default({}),
});

/** Puts a refused draft right and sends it again; one that waits for an answer is tried at once. Refuses not-found, not-allowed, bad-input, stale. */
export async function sendDraftAgain(
  actor: Actor,
  id: string,
  change: z.infer<typeof draftChangeSchema>,
): Promise<Result<{ readonly state: "sending" }>> {
  const found = await loadDraft(actor, id);
  if (!found) return refuse("not-found");
  if (!allowsRecord(actor.grants, "file", found.record.company, found.record.type)) return refuse("not-allowed");
  const type = await loadRecordType(found.record.type);
  if (!type) return refuse("unknown-type");
  const fields = { ...found.record.fields, ...change.fields };
  const checked = parseFieldValues(draftFields(type), fields);
  if (checked.errors.length > 0) return refuse("bad-input", undefined, [...checked.errors]);
  return db().transaction(async (tx) => {
    const row = (await tx.select().from(draft).where(eq(draft.id, id)).for("update"))[0];
    if (!row || (row.state !== "refused" && row.state !== "sending")) return refuse("stale");
    const changed = Object.keys(change.fields).filter((k) => (found.record.fields[k] ?? null) !== (checked.values[k] ?? null));
    const sources = { ...found.sources, ...Object.fromEntries(changed.map((k) => [k, { from: "person" }])) };
    const saved = await upsertIn(
      tx,
      actor,
      row.company,
      type,
      found.record.key,
      recordInputSchema.parse({ title: change.title ?? found.record.title, fields: checked.values, status: "draft" }),
    );
    if (!saved.ok) return saved;
    await tx.update(draft).set({ state: "sending", reasons: [], problem: null, nextTryAt: null, sources }).where(eq(draft.id, id));
    await writeLines(tx, [
      {
        verb: "draftSent",
        who: actor.id,
        company: row.company,
        recordId: row.recordId,
        details: { fields: changed.join(", ") || "nothing" },
      },
    ]);
    await addJob(tx, "sendDraft", { draftId: id }, { key: `sendDraft:${id}` });
    return ok({ state: "sending" as const });
  });
}

/**
 * Takes a draft back that was not entered: its document goes back to Arrivals, and the record stands as withdrawn. That is one that was refused, or that
 * nobody has begun to send. Refuses stale for one that the business system has, or that may be under way to it.
 */
export async function withdrawDraft(actor: Actor, id: string): Promise<Result<{ readonly arrivalId: string | null }>> {
  const found = await loadDraft(actor, id);
  if (!found) return refuse("not-found");
  if (!allowsRecord(actor.grants, "file", found.record.company, found.record.type)) return refuse("not-allowed");
  const wasRefused = found.state === "refused";
  // Held back first, so that it is not sent while its document goes back. Dying in between leaves one that stands as refused, for a person to decide on.
  if (!wasRefused && !(await hold(id))) return refuse("stale");
  // First the document: when it cannot go back, the draft stays as it is.
  // An account that was made from a document is not what that document is filed to: the document goes back with its own record.
  const open = await openChildren(id);
  if (open > 0) {
    if (!wasRefused) await letGo(id);
    return refuse("still-there", "a record that was made with it still waits; withdraw that one first");
  }
  const code = found.document === null || !(await isFiledTo(id)) ? null : parseDocumentCode(found.document);
  const back = code === null ? null : await unfile(actor, code);
  if (back && !back.ok) {
    if (!wasRefused) await letGo(id);
    return back;
  }
  return db().transaction(async (tx) => {
    const changed = await tx
      .update(draft)
      .set({ state: "withdrawn", answeredAt: now() })
      .where(and(eq(draft.id, id), inArray(draft.state, ["refused"])))
      .returning({ recordId: draft.recordId });
    const recordId = changed[0]?.recordId;
    if (recordId === undefined) return refuse("stale");
    await tx.update(record).set({ status: "withdrawn", changedAt: now() }).where(eq(record.id, recordId));
    await writeLines(tx, [{ verb: "draftWithdrawn", who: actor.id, company: found.record.company, recordId }]);
    await withdrawUnsentParent(tx, actor, id, recordId);
    return ok({ arrivalId: back?.ok ? back.value.arrivalId : null });
  });
}

/** Drafts that belong to the record of a draft and are not entered or withdrawn. */
async function openChildren(id: string): Promise<number> {
  const { rows } = await db().execute<{
    n: number;
  }>(sql`select count(*)::int as n from draft parent join record child on child.above_id = parent.record_id
    join draft d on d.record_id = child.id where parent.id = ${id}::uuid and d.state in ('sending', 'refused')`);
  return rows[0]?.n ?? 0;
}

/** Whether the document that a draft was made from is clipped to its record. */
async function isFiledTo(id: string): Promise<boolean> {
  const { rows } = await db().execute(sql`select from draft d join arrival a on a.id = d.arrival_id
    join clip c on c.document_id = a.document_id and c.record_id = d.record_id where d.id = ${id}::uuid`);
  return rows.length > 0;
}

/** The account that was made together with a record, and that the business system has not heard of, is withdrawn with it. */
async function withdrawUnsentParent(tx: Tx, actor: Actor, id: string, recordId: number): Promise<void> {
  const { rows } = await tx.execute<{
    id: string;
    record_id: number;
    company: string;
  }>(sql`update draft parent set state = 'withdrawn', answered_at = ${now()}
    from draft child join record r on r.id = child.record_id
    where child.id = ${id}::uuid and r.id = ${recordId} and parent.record_id = r.above_id and parent.arrival_id = child.arrival_id
      and parent.state = 'sending' and parent.begun_at is null
    returning parent.id, parent.record_id, parent.company`);
  for (const p of rows) {
    await tx.update(record).set({ status: "withdrawn", changedAt: now() }).where(eq(record.id, p.record_id));
    await writeLines(tx, [{ verb: "draftWithdrawn", who: actor.id, company: p.company, recordId: p.record_id }]);
  }
}

/** Keeps a draft that nobody has begun to send from being sent. Answers whether it is held. */
async function hold(id: string): Promise<boolean> {
  const held = await db()
    .update(draft)
    .set({ state: "refused", reasons: [{ path: "", message: "was taken back before it was sent" }] })
    .where(and(eq(draft.id, id), eq(draft.state, "sending"), isNull(draft.begunAt)))
    .returning({ id: draft.id });
  return held[0] !== undefined;
}

/** Sends it after all. */
async function letGo(id: string): Promise<void> {
  await db().transaction(async (tx) => {
    await tx
      .update(draft)
      .set({ state: "sending", reasons: [] })
      .where(and(eq(draft.id, id), eq(draft.state, "refused")));
    await addJob(tx, "sendDraft", { draftId: id }, { key: `sendDraft:${id}` });
  });
}
