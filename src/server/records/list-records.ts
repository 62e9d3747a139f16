import { type SQL, sql } from "drizzle-orm";
import { companiesWith } from "#core/access/grants.ts";
import { countBits, countsOf } from "#core/checklists/completeness.ts";
import { parseLookup } from "#core/records/parse-lookup.ts";
import { recordFilter } from "../access/filters.ts";
import { loadChecklist, visibleBits } from "../checklists/load-rules.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentTypes } from "./load-types.ts";
import { rightBeneath } from "./right-beneath.ts";

export const recordSorts = ["recent", "key", "title", "date", "amount", "papers"] as const;
export interface RecordsWish {
  readonly type: string;
  readonly company?: string | undefined;
  readonly q?: string | undefined;
  readonly status?: string | undefined;
  /** `type:key` of a record that they sit right beneath. */
  readonly above?: string | undefined;
  /** missing: something on its checklist is; complete: nothing is, and nothing waits to be accepted. */
  readonly checklist?: "missing" | "complete" | undefined;
  /** The record's own date, from and to. */
  readonly from?: string | undefined;
  readonly to?: string | undefined;
  readonly sort?: (typeof recordSorts)[number] | undefined;
  readonly down?: boolean | undefined;
  readonly limit: number;
  readonly offset: number;
}
export interface RecordRow {
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly date: string | null;
  readonly amount: string | null;
  readonly currency: string | null;
  readonly documents: number;
  readonly above: { readonly type: string; readonly key: string; readonly title: string } | null;
  /** How many items of its checklist are done, and of how many; null when none applies. */
  readonly checklist: { readonly done: number; readonly of: number; readonly missing: number } | null;
}

/** Records of a type that the person may see, and how many there are. The count of papers is of those they may see too. */
export async function listRecords(
  actor: Actor,
  wish: RecordsWish,
  seenDocuments: SQL,
): Promise<{ readonly items: readonly RecordRow[]; readonly total: number }> {
  const parts: SQL[] = [recordFilter(actor), sql`record.type = ${wish.type}`];
  if (wish.company) parts.push(sql`record.company = ${wish.company}`);
  if (wish.status) parts.push(sql`record.status = ${wish.status}`);
  if (wish.above !== undefined) parts.push(rightBeneath(actor, wish.above));
  for (const pattern of parseLookup(wish.q ?? "").patterns) parts.push(sql`record.lookup_text like ${pattern}`);
  const [rules, types] = [(await loadChecklist(wish.type)).rules.items, await loadDocumentTypes()];
  const visible = new Map<string, bigint>();
  const visibleIn = (company: string): bigint => {
    const bits = visible.get(company) ?? visibleBits(actor, company, wish.type, rules, types);
    visible.set(company, bits);
    return bits;
  };
  if (wish.from !== undefined) parts.push(sql`record.date >= ${wish.from}`);
  if (wish.to !== undefined) parts.push(sql`record.date <= ${wish.to}`);
  if (wish.checklist !== undefined) {
    const scopes = companiesWith(actor.grants, "see").map((company) => {
      const bits = sql`${String(visibleIn(company))}::bigint`;
      const open =
        wish.checklist === "missing"
          ? sql`k.missing & ${bits} <> 0`
          : sql`(k.missing | k.in_hand) & ${bits} = 0 and k.applies & ${bits} <> 0`;
      return sql`(k.company = ${company} and ${open})`;
    });
    parts.push(
      sql`exists (select 1 from completeness k where k.record_id = record.id and (${sql.join([sql`false`, ...scopes], sql` or `)}))`,
    );
  }
  const where = sql.join(parts, sql` and `);
  const column: SQL = {
    recent: sql`record.used_at`,
    key: sql`record.key`,
    title: sql`record.title_folded`,
    date: sql`record.date`,
    amount: sql`record.amount`,
    papers: sql`record.document_count`,
  }[wish.sort ?? "recent"];
  const down = wish.down ?? (wish.sort === undefined || wish.sort === "recent" || wish.sort === "date");
  const [rows, counted] = await Promise.all([
    db().execute<
      RecordRow & { applies: number | null; missing: number | null; in_hand: number | null } & Record<string, unknown>
    >(sql`select record.company, record.type, record.key, record.title, record.status, record.date, record.amount, record.currency,
        (select count(*) from clip c join document d on d.id = c.document_id where c.record_id = record.id and ${seenDocuments}) as documents,
        case when above.id is null or not ${recordFilter(actor, "see", sql`above`)} then null else json_build_object('type', above.type, 'key', above.key, 'title', above.title) end as above,
        kept.applies, kept.missing, kept.in_hand
      from record left join record above on above.id = record.above_id left join completeness kept on kept.record_id = record.id where ${where} order by ${column} ${down ? sql`desc` : sql`asc`} nulls last, record.id limit ${wish.limit} offset ${wish.offset}`),
    db().execute<{ total: number }>(sql`select count(*) as total from record where ${where}`),
  ]);
  return {
    items: rows.rows.map(({ applies, missing, in_hand, ...r }) => ({
      ...r,
      documents: Number(r.documents),
      checklist: applies === null ? null : shortChecklist({ applies, missing: missing ?? 0, inHand: in_hand ?? 0 }, visibleIn(r.company)),
    })),
    total: Number(counted.rows[0]?.total ?? 0),
  };
}

function shortChecklist(
  kept: { readonly applies: number; readonly missing: number; readonly inHand: number },
  visible: bigint,
): RecordRow["checklist"] {
  const missing = BigInt(kept.missing);
  const counts = countsOf({ applies: BigInt(kept.applies), missing, inHand: BigInt(kept.inHand) }, visible);
  return counts.of === 0 ? null : { ...counts, missing: countBits(missing & visible) };
}

/** Records and their papers by type, as far as the person may see them. */
export async function countRecords(
  actor: Actor,
  company: string | undefined,
  seenDocuments: SQL,
): Promise<readonly { readonly type: string; readonly records: number; readonly withPapers: number; readonly papers: number }[]> {
  const rows = await db().execute<{
    type: string;
    records: number;
    with_papers: number;
    papers: number;
  }>(sql`select record.type, count(*) as records, count(*) filter (where papers.n > 0) as with_papers, coalesce(sum(papers.n), 0) as papers
    from record left join (select c.record_id, count(*) n from clip c join document d on d.id = c.document_id where ${seenDocuments} group by c.record_id) papers on papers.record_id = record.id
    where ${recordFilter(actor)} and ${company === undefined ? sql`true` : sql`record.company = ${company}`} group by record.type`);
  return rows.rows.map((r) => ({ type: r.type, records: Number(r.records), withPapers: Number(r.with_papers), papers: Number(r.papers) }));
}
