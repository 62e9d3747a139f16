import { and, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsRecord } from "#core/access/grants.ts";
import { OWN_ITEMS_MAX } from "#core/checklists/checklist-rules.ts";
import { ownItemKey, standingItems } from "#core/checklists/checklist-state.ts";
import { isCalendarDay } from "#core/records/parse-field-values.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter } from "../access/filters.ts";
import { db, type Tx } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now, today } from "../ports/clock.ts";
import { loadDocumentTypes } from "../records/load-types.ts";
import type { record } from "../records/tables.ts";
import { type NewLine, writeLines } from "../timeline/write-lines.ts";
import { loadFacts } from "./load-facts.ts";
import { type ChecklistItemAnswer, loadItems, mayAccept, seenItems } from "./load-items.ts";
import { loadChecklists } from "./load-rules.ts";
import { refreshMarked } from "./refresh-completeness.ts";
import { itemDecision, ownItem } from "./tables.ts";

const item = z.string().min(1).max(40);
const code = z.string().max(20);
const day = z.string().refine(isCalendarDay, "must be a date like 2026-11-18").nullable();

/** What a person does about an item of one record. */
export const itemActSchema = z.discriminatedUnion("act", [
  /** The document will do; without one, every document that is received for it. */
  z.object({ act: z.literal("accept"), item, document: code.optional() }),
  /** It will not do after all. */
  z.object({ act: z.literal("takeBack"), item, document: code.optional() }),
  z.object({ act: z.literal("waive"), item, reason: z.string().trim().min(1, "say why").max(300) }),
  z.object({ act: z.literal("ask"), item }),
  /** Ties a document to the item though it is of another type, or takes one from it. */
  z.object({ act: z.literal("tie"), item, document: code }),
  z.object({ act: z.literal("untie"), item, document: code }),
  z.object({
    act: z.literal("add"),
    label: z.string().trim().min(1).max(60),
    documentTypes: z.array(z.string().max(40)).min(1).max(12),
    dueOn: day.default(null),
  }),
  z.object({ act: z.literal("remove"), item }),
]);
export type ItemAct = z.infer<typeof itemActSchema>;

type RecordRow = typeof record.$inferSelect;

/**
 * Does something about an item of a record's checklist and answers the checklist as it stands then. Twice is once. Refuses not-found (no such item or
 * document for this person), not-allowed, bad-input.
 */
export async function decideItem(
  actor: Actor,
  row: RecordRow,
  act: ItemAct,
): Promise<Result<{ readonly items: readonly ChecklistItemAnswer[] }>> {
  const done = await db().transaction((tx) => decideIn(tx, actor, row, act));
  if (!done.ok) return done;
  await refreshMarked([row.id]);
  return ok({ items: await loadItems(actor, row) });
}

async function decideIn(tx: Tx, actor: Actor, row: RecordRow, act: ItemAct): Promise<Result<null>> {
  const about = { who: actor.id, company: row.company, recordId: row.id };
  const mayEdit = allowsRecord(actor.grants, "edit", row.company, row.type);
  if (act.act === "add") return mayEdit ? addOwn(tx, actor, row, act) : refuse("not-allowed");
  const rules = await loadChecklists(tx);
  const found = (await loadFacts(tx, [row.id], rules))[0];
  const standing = found ? standingItems(rules.get(row.type) ?? [], found.facts, today()) : [];
  const target = seenItems(actor, row.company, row.type, standing, await loadDocumentTypes(tx)).find((i) => i.key === act.item);
  if (!target) return refuse("not-found");
  const line = (verb: NewLine["verb"], details: NewLine["details"] = {}, documentId?: number): Promise<void> =>
    writeLines(tx, [{ ...about, verb, details: { item: target.label, ...details }, ...(documentId === undefined ? {} : { documentId }) }]);
  switch (act.act) {
    case "accept":
    case "takeBack": {
      if (!mayAccept(actor, row.company, row.type, target)) return refuse("not-allowed");
      const chosen = act.document === undefined ? target.papers.map((p) => p.id) : [await findPaper(tx, actor, row, act.document)];
      for (const documentId of chosen) {
        if (documentId === null || !target.papers.some((p) => p.id === documentId)) return refuse("not-found");
        const changed =
          act.act === "accept"
            ? await say(tx, actor, row, target.key, "accepted", documentId)
            : await unsay(tx, row, target.key, "accepted", documentId);
        if (changed) await line(act.act === "accept" ? "itemAccepted" : "itemTakenBack", {}, documentId);
      }
      return ok(null);
    }
    case "waive":
      if (!mayEdit) return refuse("not-allowed");
      if (await say(tx, actor, row, target.key, "waived", null, act.reason)) await line("itemWaived", { reason: act.reason });
      return ok(null);
    case "ask":
      if (!mayEdit) return refuse("not-allowed");
      if (await unsay(tx, row, target.key, "waived", null)) await line("itemAsked");
      return ok(null);
    case "tie":
    case "untie": {
      if (!allowsRecord(actor.grants, "file", row.company, row.type)) return refuse("not-allowed");
      const documentId = await findPaper(tx, actor, row, act.document);
      if (documentId === null) return refuse("not-found");
      const [kind, other] = act.act === "tie" ? (["counts", "countsNot"] as const) : (["countsNot", "counts"] as const);
      await unsay(tx, row, target.key, other, documentId);
      if (await say(tx, actor, row, target.key, kind, documentId))
        await line(act.act === "tie" ? "itemTied" : "itemUntied", {}, documentId);
      return ok(null);
    }
    case "remove":
      if (!mayEdit) return refuse("not-allowed");
      if (!target.isOwn) return refuse("bad-input", "It comes from the record type's checklist; waive it instead");
      await tx.delete(itemDecision).where(and(eq(itemDecision.recordId, row.id), eq(itemDecision.item, target.key)));
      await tx.delete(ownItem).where(and(eq(ownItem.recordId, row.id), eq(ownItem.place, target.bit - 40)));
      await line("itemRemoved");
      return ok(null);
  }
}

async function addOwn(tx: Tx, actor: Actor, row: RecordRow, act: Extract<ItemAct, { act: "add" }>): Promise<Result<null>> {
  const known = await loadDocumentTypes(tx);
  const unknown = act.documentTypes.find((t) => !known.some((k) => k.key === t));
  if (unknown !== undefined) return refuse("unknown-type", unknown);
  // One at a time on a record, so that two never take the same place.
  await tx.execute(sql`select 1 from record where id = ${row.id} for no key update`);
  const there = await tx.select().from(ownItem).where(eq(ownItem.recordId, row.id));
  if (there.some((o) => o.label === act.label)) return ok(null);
  const place = Array.from({ length: OWN_ITEMS_MAX }, (_, i) => i).find((p) => !there.some((o) => o.place === p));
  if (place === undefined) return refuse("bad-input", `At most ${OWN_ITEMS_MAX} items can be added to one record`);
  // What was said of an item that stood there before is not about this one.
  await tx.delete(itemDecision).where(and(eq(itemDecision.recordId, row.id), eq(itemDecision.item, ownItemKey(place))));
  await tx.insert(ownItem).values({
    recordId: row.id,
    place,
    label: act.label,
    documentTypes: act.documentTypes,
    dueOn: act.dueOn,
    madeAt: now(),
    madeBy: actor.id,
  });
  await writeLines(tx, [{ verb: "itemAdded", who: actor.id, company: row.company, recordId: row.id, details: { item: act.label } }]);
  return ok(null);
}

/** A document of the record or of its chain by its code; null when it is not there for this person. */
async function findPaper(tx: Tx, actor: Actor, row: RecordRow, documentCode: string): Promise<number | null> {
  const seen = await documentFilter(actor, "see", sql`d.acl_id`);
  const rows = await tx.execute<{
    id: number;
  }>(sql`select d.id from document d where d.code = ${documentCode} and ${seen} and d.unfiled_at is null and exists (
    select 1 from clip c join record r on r.id = c.record_id where c.document_id = d.id and (r.id = ${row.id} or r.chain_id = ${row.chainId}))`);
  return rows.rows[0]?.id ?? null;
}

async function say(
  tx: Tx,
  actor: Actor,
  row: RecordRow,
  key: string,
  kind: "accepted" | "counts" | "countsNot" | "waived",
  documentId: number | null,
  reason: string | null = null,
): Promise<boolean> {
  const made = await tx
    .insert(itemDecision)
    .values({ recordId: row.id, item: key, kind, documentId, reason, at: now(), by: actor.id })
    .onConflictDoNothing()
    .returning({ id: itemDecision.id });
  return made.length > 0;
}

async function unsay(tx: Tx, row: RecordRow, key: string, kind: string, documentId: number | null): Promise<boolean> {
  const gone = await tx.execute(
    sql`delete from item_decision where record_id = ${row.id} and item = ${key} and kind = ${kind} and document_id is not distinct from ${documentId}`,
  );
  return (gone.rowCount ?? 0) > 0;
}
