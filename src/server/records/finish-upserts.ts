import { sql } from "drizzle-orm";
import type { RecordReference } from "#core/records/record-references.ts";
import type { Tx } from "../db/connect.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { suggestForReferences } from "../matching/suggest-again.ts";
import { type NewLine, writeLines } from "../timeline/write-lines.ts";
import { enterReferences } from "./enter-references.ts";

/** What is left to do for records that were entered in a transaction, all at once at its end. */
export interface Remainder {
  /** What each is recognised by now, by its id. */
  readonly references: Map<number, readonly RecordReference[]>;
  /** Those of them that are new or changed: waiting documents that bear their references are looked at again. */
  readonly changed: Set<number>;
  /** Records with those they follow, by their ids. */
  readonly follows: { readonly id: number; readonly earlier: readonly number[] }[];
  readonly titleWords: Set<string>;
  readonly lines: NewLine[];
  /** Ids of records that others of the transaction named, by company, type and key: many sit beneath the same account. */
  readonly named: Map<string, number>;
}

export function emptyUpsertBatch(): Remainder {
  return { references: new Map(), changed: new Set(), follows: [], titleWords: new Set(), lines: [], named: new Map() };
}

/** Does what is left for the records of a transaction, in as many statements for one as for hundreds. The last thing in it. */
export async function finishUpserts(tx: Tx, left: Remainder): Promise<void> {
  await enterReferences(tx, left.references);
  if (left.follows.length > 0) await joinChains(tx, left.follows);
  const changed = [...left.changed].flatMap((id) => (left.references.get(id) ?? []).filter((r) => r.kind !== "shape"));
  await suggestForReferences(tx, [...new Set(changed.map((r) => r.reference))], left.changed.size);
  await writeLines(tx, left.lines);
  await enterTitleWords(tx, left.titleWords);
}

/** Words that a mistyped look-up is put right by. In their order, and after all else: two that enter the same words side by side would wait for each other. */
async function enterTitleWords(tx: Tx, words: ReadonlySet<string>): Promise<void> {
  if (words.size === 0) return;
  await tx.execute(sql`insert into title_word (word) select w from unnest(${textArray([...words].sort())}::text[]) with ordinality as u (w, n)
    where not exists (select from title_word t where t.word = w) order by n on conflict do nothing`);
}

/** Brings records into one chain with those they follow, with all the chains they were part of: the smallest id among them names it. */
async function joinChains(tx: Tx, follows: Remainder["follows"]): Promise<void> {
  const pairs = follows.flatMap(({ id, earlier }) => earlier.map((e) => [id, e] as const));
  await tx.execute(sql`insert into record_follow (record_id, earlier_id)
    select * from unnest(${idArray(pairs.map(([id]) => id))}::bigint[], ${idArray(pairs.map(([, e]) => e))}::bigint[]) on conflict do nothing`);
  // One lock for all joins: two that meet in the middle must not miss each other.
  await tx.execute(sql`select pg_advisory_xact_lock(730003)`);
  const ids = [...new Set(pairs.flat())];
  const rows = await tx.execute<{ id: number; chain: number | null }>(
    sql`select id, chain_id as chain from record where id = any(${idArray(ids)}::bigint[])`,
  );
  // Each record stands for its chain, or for itself where it is in none; the smallest of what belongs together names all of it.
  const chainOf = new Map(rows.rows.map((r) => [r.id, r.chain ?? r.id]));
  const names = new Map<number, number>();
  const nameOf = (chain: number): number => {
    const next = names.get(chain) ?? chain;
    return next === chain ? chain : nameOf(next);
  };
  for (const [id, earlier] of pairs) {
    const [a, b] = [nameOf(chainOf.get(id) ?? id), nameOf(chainOf.get(earlier) ?? earlier)];
    names.set(Math.max(a, b), Math.min(a, b));
  }
  await tx.execute(sql`update record set chain_id = n.name
    from unnest(${idArray(ids)}::bigint[], ${idArray(ids.map((id) => nameOf(chainOf.get(id) ?? id)))}::bigint[]) as n (id, name)
    where record.id = n.id and record.chain_id is distinct from n.name`);
  const gone = [...names.keys()].filter((chain) => nameOf(chain) !== chain);
  if (gone.length > 0)
    await tx.execute(sql`update record set chain_id = n.name
      from unnest(${idArray(gone)}::bigint[], ${idArray(gone.map(nameOf))}::bigint[]) as n (chain, name) where record.chain_id = n.chain`);
}
