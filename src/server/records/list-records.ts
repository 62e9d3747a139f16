import { type SQL, sql } from "drizzle-orm";
import { companiesWith } from "#core/access/grants.ts";
import { countBits, countsOf } from "#core/checklists/completeness.ts";
import { parseLookup } from "#core/records/parse-lookup.ts";
import { recordFilter } from "../access/filters.ts";
import { loadChecklist, visibleBits } from "../checklists/load-rules.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentTypes } from "./load-types.ts";
import { isDirectChildOf } from "./is-direct-child-of.ts";

export const recordSorts = ["recent", "key", "title", "date", "amount", "papers"] as const;
export interface RecordsWish {
  readonly type: string;
  readonly company?: string | undefined;
  readonly q?: string | undefined;
  readonly status?: string | undefined;
  /** `type:key` of a record that they sit right beneath. */
  readonly parent?: string | undefined;
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
  readonly parent: { readonly type: string; readonly key: string; readonly title: string } | null;
  /** How many items of its checklist are done, and of how many; null when none applies. */
  readonly checklist: { readonly done: number; readonly of: number; readonly missing: number } | null;
}

/** Records that fit a filter are counted so far; beyond it there are more. */
const COUNTED_MAX = 10_000;

/** What each order goes by, and whether some records have nothing there: those come last, whichever way it goes. */
const columns: Readonly<Record<(typeof recordSorts)[number], { readonly by: SQL; readonly hasGaps: boolean }>> = {
  recent: { by: sql`record.used_at`, hasGaps: false },
  key: { by: sql`record.key`, hasGaps: false },
  title: { by: sql`record.title_folded`, hasGaps: false },
  date: { by: sql`record.date`, hasGaps: true },
  amount: { by: sql`record.amount`, hasGaps: true },
  papers: { by: sql`record.document_count`, hasGaps: false },
};

type Joined = RecordRow & { applies: number | null; missing: number | null; in_hand: number | null } & Record<string, unknown>;

/**
 * Records of a type that the person may see, and how many there are: exactly without a filter, with one as far as they are counted. The count of documents
 * is of those they may see too.
 */
export async function listRecords(
  actor: Actor,
  wish: RecordsWish,
  seenDocuments: SQL,
): Promise<{ readonly items: readonly RecordRow[]; readonly total: number; readonly totalIsExact: boolean }> {
  const companies = companiesWith(actor.grants, "see").filter((c) => wish.company === undefined || c === wish.company);
  const [rules, types] = [(await loadChecklist(wish.type)).rules.items, await loadDocumentTypes()];
  const visible = new Map<string, bigint>();
  const visibleIn = (company: string): bigint => {
    const bits = visible.get(company) ?? visibleBits(actor, company, wish.type, rules, types);
    visible.set(company, bits);
    return bits;
  };
  const filter = filterOf(actor, wish, companies, visibleIn);
  const [rows, counted] = await Promise.all([
    db().execute<Joined>(pageQuery(actor, wish, companies, filter, seenDocuments)),
    count(actor, wish, filter),
  ]);
  return {
    items: rows.rows.map(({ applies, missing, in_hand, ...r }) => ({
      ...r,
      documents: Number(r.documents),
      checklist: applies === null ? null : shortChecklist({ applies, missing: missing ?? 0, received: in_hand ?? 0 }, visibleIn(r.company)),
    })),
    ...counted,
  };
}

/** Condition on `record` for what was asked for beyond type and company; null when nothing was. */
function filterOf(actor: Actor, wish: RecordsWish, companies: readonly string[], visibleIn: (company: string) => bigint): SQL | null {
  const parts: SQL[] = parseLookup(wish.q ?? "").patterns.map((pattern) => sql`record.lookup_text like ${pattern}`);
  if (wish.status) parts.push(sql`record.status = ${wish.status}`);
  if (wish.parent !== undefined) parts.push(isDirectChildOf(actor, wish.parent));
  if (wish.from !== undefined) parts.push(sql`record.date >= ${wish.from}`);
  if (wish.to !== undefined) parts.push(sql`record.date <= ${wish.to}`);
  if (wish.checklist !== undefined) {
    const scopes = companies.map((company) => {
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
  return parts.length === 0 ? null : sql.join(parts, sql` and `);
}

/**
 * One page of the table. Which records stand on it is read first, for each company off the index of its order; only those are put together with the
 * account above, their documents and how their checklist stands.
 */
function pageQuery(actor: Actor, wish: RecordsWish, companies: readonly string[], filter: SQL | null, seenDocuments: SQL): SQL {
  const column = columns[wish.sort ?? "recent"];
  const { by } = column;
  const down = wish.down ?? (wish.sort === undefined || wish.sort === "recent" || wish.sort === "date");
  // Upwards nothing comes last of itself.
  const hasGaps = column.hasGaps && down;
  const way = down ? sql`desc` : sql`asc`;
  const branches = companies.flatMap((company) =>
    (hasGaps ? [sql`${by} is not null`, sql`${by} is null`] : [sql`true`]).map(
      (part) => sql`(select record.id, ${by} as by from record where record.company = ${company} and record.type = ${wish.type} and ${part}
        and ${recordFilter(actor)} and ${filter ?? sql`true`} order by ${by} ${way}, record.id ${way} limit ${wish.offset + wish.limit})`,
    ),
  );
  // Without the first word of it the database merges what comes off the indexes, and need not sort it.
  const order = (alias: SQL): SQL => sql`${hasGaps ? sql`${alias}.by is null, ` : sql``}${alias}.by ${way}, ${alias}.id ${way}`;
  const none = sql`(select record.id, ${by} as by from record where false)`;
  return sql`with page as materialized (select id, by from (${sql.join(branches.length > 0 ? branches : [none], sql` union all `)}) found
      order by ${order(sql`found`)} limit ${wish.limit} offset ${wish.offset})
    select record.company, record.type, record.key, record.title, record.status, record.date, record.amount, record.currency,
      (select count(*) from clip c join document d on d.id = c.document_id where c.record_id = record.id and ${seenDocuments}) as documents,
      case when parent.id is null or not ${recordFilter(actor, "see", sql`parent`)} then null else json_build_object('type', parent.type, 'key', parent.key, 'title', parent.title) end as parent,
      kept.applies, kept.missing, kept.in_hand
    from page join record on record.id = page.id left join record parent on parent.id = record.above_id left join completeness kept on kept.record_id = record.id
    order by ${order(sql`page`)}`;
}

async function count(
  actor: Actor,
  wish: RecordsWish,
  filter: SQL | null,
): Promise<{ readonly total: number; readonly totalIsExact: boolean }> {
  const of = (alias: SQL): SQL =>
    sql`${alias}.type = ${wish.type} and ${wish.company === undefined ? sql`true` : sql`${alias}.company = ${wish.company}`} and ${recordFilter(actor, "see", alias)}`;
  const { rows } = await db().execute<{ total: number }>(
    filter === null
      ? sql`select coalesce(sum(t.count), 0)::bigint as total from record_tally t where ${of(sql`t`)}`
      : sql`select count(*) as total from (select from record where ${of(sql`record`)} and ${filter} limit ${COUNTED_MAX + 1}) fit`,
  );
  const total = Number(rows[0]?.total ?? 0);
  return filter === null || total <= COUNTED_MAX ? { total, totalIsExact: true } : { total: COUNTED_MAX, totalIsExact: false };
}

function shortChecklist(
  kept: { readonly applies: number; readonly missing: number; readonly received: number },
  visible: bigint,
): RecordRow["checklist"] {
  const missing = BigInt(kept.missing);
  const counts = countsOf({ applies: BigInt(kept.applies), missing, received: BigInt(kept.received) }, visible);
  return counts.of === 0 ? null : { ...counts, missing: countBits(missing & visible) };
}

/** Records and their documents by type, as far as the person may see them. A document on two records of a type is one document. */
export async function countRecords(
  actor: Actor,
  company: string | undefined,
  seenDocuments: SQL,
): Promise<readonly { readonly type: string; readonly records: number; readonly papers: number }[]> {
  // Classes say on which types of record a document is, and there are few of them beside the documents.
  const rows = await db().execute<{
    type: string;
    records: number;
    papers: number;
  }>(sql`select t.type, t.records, coalesce(p.papers, 0) as papers from
      (select t.type, sum(t.count)::bigint as records from record_tally t
        where ${recordFilter(actor, "see", sql`t`)} and ${company === undefined ? sql`true` : sql`t.company = ${company}`} group by t.type having sum(t.count) > 0) t
      left join (select held.type, sum(d.papers)::bigint as papers
        from (select d.acl_id, count(*) as papers from document d where d.unfiled_at is null and ${seenDocuments} group by d.acl_id) d
        join access_class a on a.id = d.acl_id cross join lateral (select a.company, unnest(a.record_types) as type) held
        where ${recordFilter(actor, "see", sql`held`)} and ${company === undefined ? sql`true` : sql`held.company = ${company}`} group by held.type) p on p.type = t.type`);
  return rows.rows.map((r) => ({ type: r.type, records: Number(r.records), papers: Number(r.papers) }));
}
