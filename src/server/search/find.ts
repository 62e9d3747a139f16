import { type SQL, sql } from "drizzle-orm";
import { makeSnippet, type SnippetPart } from "#core/search/make-snippet.ts";
import { parseFind, tsqueryOf } from "#core/search/parse-find.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";

/** What is looked for. All filters together; an empty `q` lists what the filters leave, newest first. */
export interface FindWish {
  readonly q: string;
  readonly type?: string | undefined;
  readonly recordType?: string | undefined;
  readonly company?: string | undefined;
  readonly from?: string | undefined;
  readonly to?: string | undefined;
  /** `type:key` of a record: its own documents and those of all its child records. */
  readonly within?: string | undefined;
  readonly limit: number;
  readonly offset: number;
}

export interface FindHit {
  readonly code: string;
  readonly title: string;
  readonly documentType: string;
  readonly company: string;
  readonly documentDate: string | null;
  readonly kind: string | null;
  /** State of its location in the repository. */
  readonly state: string | null;
  readonly snippet: readonly SnippetPart[];
  readonly hits: number;
  readonly records: readonly { readonly company: string; readonly type: string; readonly key: string; readonly title: string }[];
}

export interface Found {
  readonly items: readonly FindHit[];
  readonly total: number;
  /** False when there are more than are counted: total and facets are then of the newest ones. */
  readonly totalIsExact: boolean;
  readonly facets: {
    readonly documentType: readonly Facet[];
    readonly recordType: readonly Facet[];
    readonly company: readonly Facet[];
    readonly year: readonly Facet[];
  };
}
export interface Facet {
  readonly value: string;
  readonly count: number;
}

/** Candidates that are counted; more are "10,000+". */
const COUNTED = 10_000;
/** Newest candidates that are ranked. */
const RANKED = 500;
/** Characters of a text fetched for its snippet. */
const SNIPPET_FROM = 60_000;

/** The candidates' query, shared with the bench. Carries the access filter. */
export async function candidateQuery(actor: Actor, wish: FindWish): Promise<{ readonly where: SQL; readonly query: string }> {
  const query = tsqueryOf(parseFind(wish.q));
  const parts: SQL[] = [await documentFilter(actor, "see", sql`s.acl_id`)];
  if (query !== "") parts.push(sql`s.tsv @@ to_tsquery('simple', ${query})`);
  if (wish.type) parts.push(sql`s.document_type = ${wish.type}`);
  if (wish.recordType) parts.push(sql`${wish.recordType} = any(s.record_types)`);
  if (wish.company) parts.push(sql`s.company = ${wish.company}`);
  if (wish.from) parts.push(sql`s.document_date >= ${wish.from}::date`);
  if (wish.to) parts.push(sql`s.document_date <= ${wish.to}::date`);
  if (wish.within) parts.push(within(actor, wish.within));
  return { where: sql.join(parts, sql` and `), query };
}

/** Condition for documents of a record or of its child records. One that the person may not see has none for them. */
function within(actor: Actor, which: string): SQL {
  const cut = which.indexOf(":");
  const one = sql`select r.id from record r where r.type = ${which.slice(0, cut)} and r.key = ${which.slice(cut + 1)} and ${recordFilter(actor, "see", sql`r`)}`;
  return sql`s.document_id in (select c.document_id from clip c where c.record_id in (${one})
    union select b.document_id from beneath_document b where b.record_id in (${one}))`;
}

type Summary = {
  total: number;
  types: Record<string, number> | null;
  companies: Record<string, number> | null;
  years: Record<string, number> | null;
  record_types: Record<string, number> | null;
  ids: number[] | null;
} & Record<string, unknown>;
type Detail = {
  id: number;
  code: string;
  title: string;
  document_type: string;
  company: string;
  document_date: string | null;
  kind: string | null;
  state: string | null;
  body: string;
  records: FindHit["records"] | null;
} & Record<string, unknown>;

/** Finds documents by their words, over what the person may see only: items, counts and facets all carry the same filter. */
export async function find(actor: Actor, wish: FindWish): Promise<Found> {
  const { where, query } = await candidateQuery(actor, wish);
  const asked = parseFind(wish.q);
  const order =
    query === ""
      ? sql`c.document_date desc nulls last, c.document_id desc`
      : sql`ts_rank_cd(s.tsv, to_tsquery('simple', ${query}), 1) desc, c.document_id desc`;
  const rankedFrom =
    query === ""
      ? sql`from c`
      : sql`from (select * from c order by document_id desc limit ${RANKED}) c join search_document s on s.document_id = c.document_id`;
  const summary = (
    await db().execute<Summary>(sql`with c as materialized (
      select s.document_id, s.document_type, s.company, s.record_types, s.document_date from search_document s where ${where} order by s.document_id desc limit ${COUNTED + 1})
    select (select count(*) from c) as total,
      (select json_object_agg(document_type, n) from (select document_type, count(*) n from c group by 1) f) as types,
      (select json_object_agg(company, n) from (select company, count(*) n from c group by 1) f) as companies,
      (select json_object_agg(year, n) from (select extract(year from document_date)::text as year, count(*) n from c where document_date is not null group by 1) f) as years,
      (select json_object_agg(t, n) from (select t, count(*) n from c, unnest(c.record_types) t group by 1) f) as record_types,
      (select json_agg(document_id) from (select c.document_id ${rankedFrom} order by ${order} limit ${wish.limit} offset ${wish.offset}) page) as ids`)
  ).rows[0];
  const ids = summary?.ids ?? [];
  const details =
    ids.length === 0
      ? []
      : (
          await db()
            .execute<Detail>(sql`select d.id, d.code, d.title, d.document_type, d.company, d.document_date, ct.kind, pl.state, left(s.body, ${SNIPPET_FROM}) as body,
      (select json_agg(json_build_object('company', r.company, 'type', r.type, 'key', r.key, 'title', r.title) order by cl.position) from clip cl join record r on r.id = cl.record_id where cl.document_id = d.id and ${recordFilter(actor, "see", sql`r`)}) as records
    from document d join search_document s on s.document_id = d.id
    join document_version v on v.document_id = d.id and v.number = d.current_version join content ct on ct.sha256 = v.sha256
    left join placement pl on pl.document_id = d.id
    where d.id in (${sql.join(
      ids.map((id) => sql`${id}`),
      sql`, `,
    )}) and ${await documentFilter(actor, "see", sql`d.acl_id`)}`)
        ).rows;
  const byId = new Map(details.map((d) => [d.id, d]));
  const items = ids.flatMap((id) => {
    const d = byId.get(id);
    if (!d) return [];
    const snippet = makeSnippet(d.body, asked);
    return [
      {
        code: d.code,
        title: d.title,
        documentType: d.document_type,
        company: d.company,
        documentDate: d.document_date,
        kind: d.kind,
        state: d.state,
        snippet: snippet.parts,
        hits: snippet.hits,
        records: d.records ?? [],
      },
    ];
  });
  const total = Number(summary?.total ?? 0);
  return {
    items,
    total: Math.min(total, COUNTED),
    totalIsExact: total <= COUNTED,
    facets: {
      documentType: facets(summary?.types),
      recordType: facets(recordTypesSeen(actor, summary?.record_types)),
      company: facets(summary?.companies),
      year: facets(summary?.years).toSorted((a, b) => b.value.localeCompare(a.value)),
    },
  };
}

/** A facet must not tell of record types that the person has no grant for. */
function recordTypesSeen(actor: Actor, counts: Record<string, number> | null | undefined): Record<string, number> {
  return Object.fromEntries(
    Object.entries(counts ?? {}).filter(([type]) =>
      actor.grants.some((g) => g.actions.includes("see") && (g.recordTypes === "all" || g.recordTypes.includes(type))),
    ),
  );
}

function facets(counts: Record<string, number> | null | undefined): Facet[] {
  return Object.entries(counts ?? {})
    .map(([value, count]) => ({ value, count }))
    .sort((a, b) => b.count - a.count || a.value.localeCompare(b.value));
}
