import { sql } from "drizzle-orm";
import type { MatchHit, MatchRecord } from "#core/matching/match-types.ts";
import type { Probe } from "#core/matching/probe-paper.ts";
import { nearbyReferences } from "#core/matching/near-references.ts";
import type { ReferenceKind } from "#core/records/record-references.ts";
import { foldReference } from "#core/shared/fold-text.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { queryPrepared } from "../db/query-prepared.ts";
import { excludeWithdrawnDrafts } from "../drafts/exclude-withdrawn-drafts.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { loadRecordTypes } from "../records/load-types.ts";
import { remembered } from "./remembered.ts";

/** Hits of one reference beyond this say nothing: a name that hundreds bear, a figure on every document. */
const HITS_EACH = 24;
/** Records looked at for one document. */
const RECORDS_MAX = 160;
/** Records beneath the sender's account that are compared by amount and by nearly the same number. */
const BENEATH_MAX = 60;
/** A document that names more accounts than this is a list of them: none of them sent it. */
const ACCOUNTS_MAX = 12;

interface RecordRow {
  id: number;
  company: string;
  type: string;
  key: string;
  title: string;
  status: string | null;
  date: string | null;
  amount: string | null;
  currency: string | null;
  fields: FieldValues;
  above_id: number | null;
  chain_id: number | null;
}

/** What of a document records are looked up by. */
export interface Sought {
  readonly probes: readonly Probe[];
  /** Its sums, as record amounts are written. */
  readonly amounts: readonly string[];
  /** What it names as its order. */
  readonly references: readonly string[];
  /** Records said on the way in, by a barcode or by the mail it answers. */
  readonly said: readonly number[];
}

/** Records that a document may belong to, with what named them: all by index, whatever their number. Nobody's rights are asked: whoever shows them does. */
export interface Candidates {
  readonly records: readonly MatchRecord[];
  readonly hits: readonly MatchHit[];
}

/**
 * For each of some documents: records named on it; those its sender's account has that its amounts or nearly its numbers fit; those said otherwise; and the
 * accounts above all of them. Three questions to the database, however many documents there are.
 */
export async function loadCandidates(papers: readonly Sought[]): Promise<readonly Candidates[]> {
  const named = await loadNamed(papers);
  const records = new Map((await loadRecords(named.flatMap((n) => n.map((x) => x.id)))).map((r) => [r.id, r]));
  const drafts = papers.map((paper, i) => {
    const found = (named[i] ?? []).flatMap((n) => records.get(n.id) ?? []).sort((a, b) => a.id - b.id);
    const hits = (named[i] ?? []).flatMap((n) =>
      n.by.flatMap((at): MatchHit[] => {
        const probe = paper.probes[at];
        return probe ? [{ recordId: n.id, kind: probe.kind, reference: probe.reference }] : [];
      }),
    );
    // A reference that is some record's very number is no slip of the pen for its neighbours'.
    const exact = new Set(hits.filter((h) => h.kind === "key").map((h) => h.reference));
    const slips = paper.references.filter((r) => !exact.has(foldReference(r)));
    // Who the document is from: accounts that it names by an identifier, or by their name.
    const accounts = found.filter((r) => r.isStanding && r.type.endsWith("Account") && r.type !== "bankAccount").map((r) => r.id);
    return { paper, found, hits, slips, accounts: accounts.length <= ACCOUNTS_MAX ? accounts : [] };
  });
  const beneath = await loadChildRecords(
    drafts.map(({ paper, slips, accounts }) => ({ accounts, amounts: paper.amounts, isAnyWanted: slips.length > 0 })),
  );
  return drafts.map(({ paper, found, hits, slips }, i) => {
    const theirs = beneath[i] ?? [];
    const near = nearbyReferences(
      slips,
      theirs.map((r) => r.key),
    );
    const have = new Set(found.map((r) => r.id));
    const more = theirs.filter(
      (r) =>
        !have.has(r.id) &&
        (near.has(r.key) ||
          (r.amount !== null && paper.amounts.includes(r.amount)) ||
          paper.amounts.includes(String(r.fields["net"] ?? ""))),
    );
    const slipped = theirs.flatMap((r): MatchHit[] => {
      const reference = near.get(r.key);
      return reference === undefined ? [] : [{ recordId: r.id, kind: "shape", reference }];
    });
    const parent = new Set([...found, ...more].flatMap((r) => (r.parentId !== null && !have.has(r.parentId) ? [r.parentId] : [])));
    return { records: [...found, ...more, ...[...parent].flatMap((id) => records.get(id) ?? [])], hits: [...hits, ...slipped] };
  });
}

/** Ids of the records that are named on each document, and by which of its probes, the most telling first. */
async function loadNamed(
  papers: readonly Sought[],
): Promise<readonly (readonly { readonly id: number; readonly by: readonly number[] }[])[]> {
  const probes = papers.flatMap((p, paper) => p.probes.map((probe, n) => ({ paper, n, ...probe })));
  const said = papers.flatMap((p, paper) => [...new Set(p.said)].map((id) => ({ paper, id })));
  const named = papers.map((): { id: number; by: readonly number[] }[] => []);
  if (probes.length === 0 && said.length === 0) return named;
  const rows = await queryPrepared<{ paper: number; id: number; by: readonly number[] }>(sql`
    with p as (
      select * from unnest(${idArray(probes.map((p) => p.paper))}::int[], ${idArray(probes.map((p) => p.n))}::int[], ${textArray(probes.map((p) => p.kind))}::text[],
        ${textArray(probes.map((p) => p.reference))}::text[], ${idArray(probes.map((p) => worth[p.kind]))}::int[]) as p (paper, n, kind, reference, worth)
    ), h as (
      select p.paper, p.n, p.worth, h.record_id as id from p cross join lateral (
        select r.record_id from record_reference r where r.reference = p.reference and r.kind = p.kind order by r.record_id desc limit ${HITS_EACH}) h
      union all select s.paper, -1, ${SAID_WORTH}, s.id from unnest(${idArray(said.map((s) => s.paper))}::int[], ${idArray(said.map((s) => s.id))}::bigint[]) as s (paper, id)
    )
    select paper, id, by from (
      select paper, id, coalesce(array_agg(n order by n) filter (where n >= 0), '{}') as by, row_number() over (partition by paper order by sum(worth) desc, id desc) as rank
      from h group by paper, id) x
    where rank <= ${RECORDS_MAX} order by paper, rank`);
  for (const { paper, id, by } of rows) named[paper]?.push({ id, by });
  return named;
}

/** How telling each kind of reference is, where not all records can be looked at; a name alone comes last. */
const worth: Readonly<Record<ReferenceKind, number>> = {
  key: 9,
  iban: 8,
  vatNumber: 8,
  mail: 7,
  number: 6,
  yourReference: 6,
  batch: 6,
  domain: 5,
  digits: 5,
  order: 4,
  shape: 3,
  name: 3,
};
/** What was said otherwise is looked at before all that is named. */
const SAID_WORTH = 1000;

/** Records beneath accounts whose sums fit; where any may be meant, the latest whatever their sums. */
async function loadChildRecords(
  papers: readonly { readonly accounts: readonly number[]; readonly amounts: readonly string[]; readonly isAnyWanted: boolean }[],
): Promise<readonly (readonly MatchRecord[])[]> {
  const asked = papers.flatMap(({ accounts, amounts, isAnyWanted }, paper) =>
    isAnyWanted || amounts.length > 0 ? accounts.map((id) => ({ paper, id, amounts: textArray(amounts), isAnyWanted })) : [],
  );
  const beneath = papers.map((): MatchRecord[] => []);
  if (asked.length === 0) return beneath;
  const rows = await queryPrepared<RecordRow & { paper: number }>(sql`
    select distinct on (a.paper, b.id) a.paper, b.* from unnest(${idArray(asked.map((a) => a.paper))}::int[], ${idArray(asked.map((a) => a.id))}::bigint[],
      ${textArray(asked.map((a) => a.amounts))}::text[], ${textArray(asked.map((a) => String(a.isAnyWanted)))}::bool[]) as a (paper, id, amounts, any_wanted)
    cross join lateral (
      (select ${columns} from (select * from record r where r.above_id = a.id order by r.id desc limit ${BENEATH_MAX}) r
        where ${excludeWithdrawnDrafts()} and (a.any_wanted or r.amount = any(a.amounts::numeric[]) or r.fields ->> 'net' = any(a.amounts::text[])))
      union all (select ${columns} from record r where r.above_id = a.id and r.amount = any(a.amounts::numeric[]) and ${excludeWithdrawnDrafts()} order by r.id desc limit ${BENEATH_MAX})) b
    order by a.paper, b.id`);
  const records = await asMatchRecords(rows);
  rows.forEach((row, i) => {
    const record = records[i];
    if (record) beneath[row.paper]?.push(record);
  });
  return beneath;
}

/** Records by id, and those above them. */
async function loadRecords(ids: readonly number[]): Promise<readonly MatchRecord[]> {
  const asked = [...new Set(ids)];
  if (asked.length === 0) return [];
  return asMatchRecords(
    await queryPrepared<RecordRow>(sql`with found as materialized (select ${columns} from record r where r.id = any(${idArray(asked)}::bigint[]) and ${excludeWithdrawnDrafts()})
      select * from found union all
      select ${columns} from record r where r.id = any(array(select above_id from found where above_id is not null)) and r.id <> all(${idArray(asked)}::bigint[])`),
  );
}

const columns = sql`r.id, r.company, r.type, r.key, r.title, r.status, r.date, r.amount, r.currency, r.fields, r.above_id, r.chain_id`;

const standingTypes = remembered(async () => new Set((await loadRecordTypes()).filter((t) => t.kind === "standing").map((t) => t.key)));

async function asMatchRecords(rows: readonly RecordRow[]): Promise<MatchRecord[]> {
  const standing = await standingTypes();
  return rows.map((r) => ({
    id: r.id,
    company: r.company,
    type: r.type,
    key: r.key,
    title: r.title,
    isStanding: standing.has(r.type),
    status: r.status,
    date: r.date,
    amount: r.amount,
    currency: r.currency,
    fields: r.fields,
    parentId: r.above_id,
    chainId: r.chain_id,
  }));
}
