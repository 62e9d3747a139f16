import { sql } from "drizzle-orm";
import type { MatchHit, MatchRecord } from "#core/matching/match-types.ts";
import type { Probe } from "#core/matching/probe-paper.ts";
import { nearbyReferences } from "#core/matching/near-references.ts";
import type { ReferenceKind } from "#core/records/record-references.ts";
import { foldReference } from "#core/shared/fold-text.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import type { Tx } from "../db/connect.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";

/** Hits of one reference beyond this say nothing: a name that hundreds bear, a figure on every paper. */
const HITS_EACH = 24;
/** Records looked at for one paper. */
const RECORDS_MAX = 160;
/** Records beneath the sender's account that are compared by amount and by nearly the same number. */
const BENEATH_MAX = 60;

type HitRow = Record<string, unknown> & { record_id: number; kind: ReferenceKind; reference: string };
type RecordRow = Record<string, unknown> & {
  id: number;
  company: string;
  type: string;
  key: string;
  title: string;
  standing: boolean;
  status: string | null;
  date: string | null;
  amount: string | null;
  currency: string | null;
  fields: FieldValues;
  above_id: number | null;
  chain_id: number | null;
};

/** Records that a paper may belong to, with what named them: all by index, whatever their number. Nobody's rights are asked: whoever shows them does. */
export interface Candidates {
  readonly records: readonly MatchRecord[];
  readonly hits: readonly MatchHit[];
}

/** Records named on a paper; those its sender's account has that its amounts or nearly its numbers fit; those said otherwise; and the accounts above all of them. */
export async function loadCandidates(
  tx: Tx,
  probes: readonly Probe[],
  about: { readonly amounts: readonly string[]; readonly references: readonly string[]; readonly said: readonly number[] },
): Promise<Candidates> {
  const hits: MatchHit[] = [];
  if (probes.length > 0) {
    const rows = await tx.execute<HitRow>(sql`select p.kind, p.reference, h.record_id
      from unnest(${textArray(probes.map((p) => p.kind))}::text[], ${textArray(probes.map((p) => p.reference))}::text[]) as p (kind, reference)
      cross join lateral (select r.record_id from record_reference r where r.reference = p.reference and r.kind = p.kind order by r.record_id desc limit ${HITS_EACH}) h`);
    hits.push(...rows.rows.map((r) => ({ recordId: r.record_id, kind: r.kind, reference: r.reference })));
  }
  const named = [...new Set([...about.said, ...byWorth(hits)])].slice(0, RECORDS_MAX);
  const found = await loadMatchRecords(tx, named);
  // Who the paper is from: accounts that it names by an identifier, or by their name.
  const accounts = found.filter((r) => r.isStanding && r.type.endsWith("Account") && r.type !== "bankAccount").map((r) => r.id);
  if (accounts.length > 0 && accounts.length <= 12) {
    const beneath = await loadBeneath(tx, accounts, about.amounts);
    const known = new Set(found.map((r) => r.id));
    // A reference that is some record's very number is no slip of the pen for its neighbours'.
    const exact = new Set(hits.filter((h) => h.kind === "key").map((h) => h.reference));
    const near = nearbyReferences(
      about.references.filter((r) => !exact.has(foldReference(r))),
      beneath.map((r) => r.key),
    );
    found.push(
      ...beneath.filter(
        (r) =>
          !known.has(r.id) &&
          (near.has(r.key) ||
            (r.amount !== null && about.amounts.includes(r.amount)) ||
            about.amounts.includes(String(r.fields["net"] ?? ""))),
      ),
    );
    for (const r of beneath) {
      const reference = near.get(r.key);
      if (reference !== undefined) hits.push({ recordId: r.id, kind: "shape", reference });
    }
  }
  const have = new Set(found.map((r) => r.id));
  const above = [...new Set(found.flatMap((r) => (r.aboveId !== null && !have.has(r.aboveId) ? [r.aboveId] : [])))];
  return { records: [...found, ...(await loadMatchRecords(tx, above))], hits };
}

/** Ids by what named them, the most telling first; a name alone comes last. */
function byWorth(hits: readonly MatchHit[]): readonly number[] {
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
  const sums = new Map<number, number>();
  for (const hit of hits) sums.set(hit.recordId, (sums.get(hit.recordId) ?? 0) + worth[hit.kind]);
  return [...sums].sort((a, b) => b[1] - a[1] || b[0] - a[0]).map(([id]) => id);
}

async function loadBeneath(tx: Tx, accounts: readonly number[], amounts: readonly string[]): Promise<readonly MatchRecord[]> {
  const rows = await tx.execute<RecordRow>(sql`select b.* from unnest(${idArray(accounts)}::bigint[]) as a (id)
    cross join lateral (
      (select ${columns} from record r where r.above_id = a.id order by r.id desc limit ${BENEATH_MAX})
      union (select ${columns} from record r where r.above_id = a.id and r.amount = any(${`{${amounts.join(",")}}`}::numeric[]) order by r.id desc limit ${BENEATH_MAX})) b`);
  return rows.rows.map(asMatchRecord);
}

async function loadMatchRecords(tx: Tx, ids: readonly number[]): Promise<MatchRecord[]> {
  if (ids.length === 0) return [];
  const rows = await tx.execute<RecordRow>(sql`select ${columns} from record r where r.id = any(${idArray(ids)}::bigint[]) order by r.id`);
  return rows.rows.map(asMatchRecord);
}

const columns = sql`r.id, r.company, r.type, r.key, r.title, r.status, r.date, r.amount, r.currency, r.fields, r.above_id, r.chain_id,
  (select t.definition->>'kind' = 'standing' from record_type t where t.key = r.type) as standing`;

function asMatchRecord(r: RecordRow): MatchRecord {
  return {
    id: r.id,
    company: r.company,
    type: r.type,
    key: r.key,
    title: r.title,
    isStanding: r.standing,
    status: r.status,
    date: r.date,
    amount: r.amount,
    currency: r.currency,
    fields: r.fields,
    aboveId: r.above_id,
    chainId: r.chain_id,
  };
}
