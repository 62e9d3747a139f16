import { sql } from "drizzle-orm";
import type { ItemRule } from "#core/checklists/checklist-rules.ts";
import { standingItems } from "#core/checklists/checklist-state.ts";
import { type Completeness, completenessOf } from "#core/checklists/completeness.ts";
import { db, type Tx } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { today } from "../ports/clock.ts";
import { loadFacts, type RecordFacts } from "./load-facts.ts";
import { loadChecklists } from "./load-rules.ts";

/** Whoever works completeness out holds it: an older look at the facts never overwrites a newer one. */
const COMPLETENESS_LOCK = 730_021;
/** Records looked at in one go. */
const CHUNK = 500;

type Rules = ReadonlyMap<string, readonly ItemRule[]>;

/**
 * Works off marks, oldest first, and answers how many records were looked at. Marks are taken away before the facts are read: what is committed later
 * leaves a mark of its own. With `ids` only those records, at once, for somebody who waits for the answer.
 */
export async function refreshMarked(ids?: readonly number[]): Promise<number> {
  return db().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(${COMPLETENESS_LOCK})`);
    const taken = await tx.execute<{ record_id: number }>(
      ids === undefined
        ? sql`delete from completeness_due where id in (select id from completeness_due order by id limit ${CHUNK}) returning record_id`
        : sql`delete from completeness_due where record_id = any(${idArray(ids)}::bigint[]) returning record_id`,
    );
    const records = [...new Set(taken.rows.map((r) => r.record_id))];
    if (records.length > 0) await refreshIn(tx, records, await loadChecklists(tx));
    return records.length;
  });
}

/** Works off all marks there are. */
export async function refreshAllMarked(): Promise<void> {
  while ((await refreshMarked()) > 0);
}

/** Marks records that change by themselves today: a paper's validity ended yesterday. Answers how many. */
export async function markLapsing(): Promise<number> {
  const marked = await db().execute(
    sql`insert into completeness_due (record_id) select record_id from completeness where changes_on <= ${today()}
      and not exists (select 1 from completeness_due d where d.record_id = completeness.record_id)`,
  );
  return marked.rowCount ?? 0;
}

/** Works out the completeness of records anew and keeps what differs; for a changed rule. Answers how many there were. */
export async function recheck(ids: readonly number[], rules: Rules): Promise<number> {
  return db().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(${COMPLETENESS_LOCK})`);
    return refreshIn(tx, ids, rules);
  });
}

async function refreshIn(tx: Tx, ids: readonly number[], rules: Rules): Promise<number> {
  const facts = await loadFacts(tx, ids, rules);
  const day = today();
  const rows = facts.map((f) => ({ f, kept: completenessOf(standingItems(rules.get(f.type) ?? [], f.facts, day), day) }));
  const there = rows.filter((r) => r.kept.applies !== 0n);
  await keep(tx, there);
  const none = rows.filter((r) => r.kept.applies === 0n).map((r) => r.f.id);
  if (none.length > 0) await tx.execute(sql`delete from completeness where record_id = any(${idArray(none)}::bigint[])`);
  return facts.length;
}

/** What is kept of a record, as a row of the table; days as text, sets as whole numbers. */
export const rowOf = (f: RecordFacts, kept: Completeness) => ({
  record_id: f.id,
  company: f.facts.record.company,
  type: f.type,
  above_id: f.aboveId,
  responsible_id: f.responsibleId,
  applies: Number(kept.applies),
  missing: Number(kept.missing),
  in_hand: Number(kept.inHand),
  lapsed: Number(kept.lapsed),
  waived: Number(kept.waived),
  due_on: kept.dueOn,
  lapses_on: kept.lapsesOn,
  changes_on: kept.changesOn,
});

async function keep(tx: Tx, rows: readonly { readonly f: RecordFacts; readonly kept: Completeness }[]): Promise<void> {
  if (rows.length === 0) return;
  const values = JSON.stringify(rows.map((r) => rowOf(r.f, r.kept)));
  // Only what differs is written: most records are as they were.
  await tx.execute(sql`insert into completeness (record_id, company, type, above_id, responsible_id, applies, missing, in_hand, lapsed, waived, due_on, lapses_on, changes_on)
    select * from json_to_recordset(${values}::json) as fresh(record_id bigint, company text, type text, above_id bigint, responsible_id text,
      applies bigint, missing bigint, in_hand bigint, lapsed bigint, waived bigint, due_on date, lapses_on date, changes_on date)
    on conflict (record_id) do update set company = excluded.company, type = excluded.type, above_id = excluded.above_id, responsible_id = excluded.responsible_id,
      applies = excluded.applies, missing = excluded.missing, in_hand = excluded.in_hand, lapsed = excluded.lapsed, waived = excluded.waived,
      due_on = excluded.due_on, lapses_on = excluded.lapses_on, changes_on = excluded.changes_on
    where (completeness.company, completeness.type, completeness.above_id, completeness.responsible_id, completeness.applies, completeness.missing, completeness.in_hand,
        completeness.lapsed, completeness.waived, completeness.due_on, completeness.lapses_on, completeness.changes_on)
      is distinct from (excluded.company, excluded.type, excluded.above_id, excluded.responsible_id, excluded.applies, excluded.missing, excluded.in_hand,
        excluded.lapsed, excluded.waived, excluded.due_on, excluded.lapses_on, excluded.changes_on)`);
}
