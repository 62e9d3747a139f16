import { type SQL, sql } from "drizzle-orm";
import { z } from "zod";
import { decideReach, isWide, type ReachCount, type ReachSettings, reachSchema, reachWords, totalReach } from "#core/reach/reach.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { recordFilter } from "../access/filters.ts";
import { db, type Tx } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { loadRecordTypes } from "../records/load-types.ts";
import type { record } from "../records/tables.ts";
import { loadReachSettings } from "../settings/load-settings.ts";

type RecordRow = Pick<typeof record.$inferSelect, "id" | "chainId" | "parentId" | "type">;

/** Records named when it is asked whether a clip may show on many. */
const NAMED_MAX = 5;

/** The records above one, nearest first; without itself. As a query of ids in brackets. */
export const parentRecords = (row: RecordRow): SQL => sql`(with recursive up as (select ${row.parentId}::bigint as id
  union select r.above_id from record r join up on r.id = up.id where r.above_id is not null) select id from up where id is not null)`;

/**
 * Documents that a record sees by reach: clipped along its chain or above it with a reach to its type, or beneath it (kept in `beneath_document`). As a
 * query of document ids. Who may see them is another question: reach gives nobody a right.
 */
export function reachedDocuments(row: RecordRow): SQL {
  return sql`select c.document_id from clip c where c.reach <> '{}' and ${row.type} = any(c.reach) and c.record_id <> ${row.id}
      and c.record_id in (select beside.id from record beside where beside.chain_id = ${row.chainId}::bigint union all ${parentRecords(row)})
    union select b.document_id from beneath_document b where b.record_id = ${row.id} and b.reaches`;
}

/** Records along the chain, above and beneath one, without itself. */
const relatives = (row: RecordRow): SQL => sql`(with recursive down as (select b.id from record b where b.above_id = ${row.id}
  union select b.id from record b join down on b.above_id = down.id)
  select id from down union select beside.id from record beside where beside.chain_id = ${row.chainId}::bigint union ${parentRecords(row)})`;

/** How many records of each type would see a clip on this one, as the person sees them; of some types, or with null of all there are. */
export async function countReach(tx: Tx, actor: Actor, row: RecordRow, types: readonly string[] | null): Promise<readonly ReachCount[]> {
  if (types?.length === 0) return [];
  const rows = await tx.execute<{
    type: string;
    count: number;
  }>(sql`select r.type, count(*)::int as count from record r join record_type t on t.key = r.type
    where r.id in ${relatives(row)} and r.id <> ${row.id} and r.type <> ${row.type} and ${types === null ? sql`true` : sql`r.type = any(${textArray(types)}::text[])`}
      and ${recordFilter(actor, "see", sql`r`)} group by r.type, t.order order by t.order`);
  return rows.rows;
}

/** Refuses reaches-many with the numbers, when one of the clips would show on more records than is let pass without asking. */
export async function agreeToReach(
  tx: Tx,
  actor: Actor,
  settings: ReachSettings,
  clips: readonly { readonly record: RecordRow & { readonly key: string }; readonly reach: readonly string[] }[],
): Promise<Result<null>> {
  for (const c of clips) {
    const counts = await countReach(tx, actor, c.record, c.reach);
    if (isWide(counts, settings)) return refuse("reaches-many", `${c.record.key}: ${await wordsOf(tx, counts)}`);
  }
  return ok(null);
}

async function wordsOf(tx: Tx, counts: readonly ReachCount[]): Promise<string> {
  const types = await loadRecordTypes(tx);
  return reachWords(counts, (key, count) => {
    const type = types.find((t) => t.key === key);
    return ((count === 1 ? type?.label : type?.plural) ?? key).toLowerCase();
  });
}

/** A clip as it is asked for: the record, and the record types along its chain that see it too; left out, those that the document type says. */
export const clipWishSchema = z.object({
  company: z.string().max(20).optional(),
  type: z.string().max(40),
  key: z.string().max(120),
  reach: reachSchema.optional(),
});
/** Clips whose reach is asked for. */
export const reachWishSchema = z.object({ documentType: z.string().min(1).max(40), clips: z.array(clipWishSchema).max(20) });

/** Which records would see a clip. */
export interface ReachAnswer {
  readonly type: string;
  readonly key: string;
  /** Record types that see it: those that were said, else those of the document type. */
  readonly reach: readonly string[];
  /** Whether that is what the document type says. */
  readonly isUsual: boolean;
  /** How many records of each type there are along the chain, above and beneath. */
  readonly along: readonly ReachCount[];
  /** How many of them would see it. */
  readonly total: number;
  /** More than is let pass without asking. */
  readonly isWide: boolean;
  /** In words, such as "412 freight bookings and 3 claims". */
  readonly words: string;
  /** Some of them, the latest first. */
  readonly named: readonly { readonly type: string; readonly key: string; readonly title: string }[];
}

/** Says for some clips which records would see them; nothing is written. Records that the person may not see are neither counted nor named. */
export async function previewReach(
  actor: Actor,
  wish: z.infer<typeof reachWishSchema>,
): Promise<Result<{ items: readonly ReachAnswer[] }>> {
  const settings = await loadReachSettings();
  const items: ReachAnswer[] = [];
  for (const c of wish.clips) {
    const row = await findVisibleRecord(actor, c.type, c.key, c.company);
    if (!row) return refuse("unknown-record", `${c.type} ${c.key}`);
    const usual = decideReach(undefined, settings, wish.documentType, row.type);
    const reach = decideReach(c.reach, settings, wish.documentType, row.type);
    const along = await countReach(db(), actor, row, null);
    const counts = along.filter((a) => reach.includes(a.type));
    const named =
      counts.length === 0
        ? []
        : (
            await db().execute<ReachAnswer["named"][number] & Record<string, unknown>>(sql`select r.type, r.key, r.title from record r
              where r.id in ${relatives(row)} and r.id <> ${row.id} and r.type = any(${textArray(reach)}::text[]) and ${recordFilter(actor, "see", sql`r`)}
              order by r.date desc nulls last, r.id desc limit ${NAMED_MAX}`)
          ).rows;
    items.push({
      type: row.type,
      key: row.key,
      reach,
      isUsual: reach.join() === usual.join(),
      along,
      total: totalReach(counts),
      isWide: isWide(counts, settings),
      words: await wordsOf(db(), counts),
      named,
    });
  }
  return ok({ items });
}
