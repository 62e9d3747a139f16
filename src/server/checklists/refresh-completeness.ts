import { sql } from "drizzle-orm";
import type { ItemRule } from "#core/checklists/checklist-rules.ts";
import { standingItems } from "#core/checklists/checklist-state.ts";
import { type Completeness, completenessOf } from "#core/checklists/completeness.ts";
import { db, type Tx, withLines } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { today } from "../ports/clock.ts";
import { loadChecklists } from "./load-rules.ts";
import {
  serialiseCompleteness,
  serialiseStoredCompleteness,
  type EvaluatedRecord,
  createChecklistEvaluator,
} from "./evaluate-checklists.ts";

/** Whoever works completeness out holds it: an older look at the facts never overwrites a newer one. */
const COMPLETENESS_LOCK = 730_021;
/**
 * Longest time of one statement, ms. Right after very many rows came in at once the database can choose a way that takes for ever; ended and begun
 * again, it knows better by then. What was marked stays marked.
 */
const STATEMENT_MS = 30_000;
/** Marks worked off in one transaction. */
const CHUNK = 1000;
/** Records of a type looked at in one transaction, in one query, and lines that they are read on. */
const STRIDE = 8000;
const PART = 1000;
const AHEAD = 2;

async function holdCompleteness(tx: Tx): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(${COMPLETENESS_LOCK})`);
  await tx.execute(sql`set local statement_timeout = ${sql.raw(String(STATEMENT_MS))}`);
}

type Rules = ReadonlyMap<string, readonly ItemRule[]>;

/**
 * Works off marks, oldest first, and answers how many records were looked at. Marks are taken away before the facts are read: what is committed later
 * leaves a mark of its own. With `ids` only those records, at once, for somebody who waits for the answer.
 */
export async function refreshMarked(ids?: readonly number[]): Promise<number> {
  return db().transaction(async (tx) => {
    await holdCompleteness(tx);
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

/** Works out the completeness of records again and keeps what differs. Answers how many there were. */
export async function recheck(ids: readonly number[], rules: Rules): Promise<number> {
  return db().transaction(async (tx) => {
    await holdCompleteness(tx);
    return refreshIn(tx, ids, rules);
  });
}

/**
 * Looks at all records of a type again, some thousand at a time, each time in a transaction of its own; tells after each how many were looked at. For a
 * changed rule. While one part is worked out and written, the next ones are read on lines of their own: after the lock was taken, so that what is read
 * is not older than what others have written.
 */
export function recheckAll(type: string, rules: readonly ItemRule[], onProgress: (done: number) => Promise<void>): Promise<number> {
  return withLines(AHEAD, STATEMENT_MS, async (lines) => {
    // A looker holds for one day: midnight may pass while a hundred thousand records are looked at.
    let [day, look] = [today(), completenessLooker(type, rules, today())];
    let done = 0;
    for (let after = 0; ;) {
      const ids = await idsAfter(type, after, STRIDE);
      const last = ids.at(-1);
      if (last === undefined) return done;
      after = last;
      if (day !== today()) [day, look] = [today(), completenessLooker(type, rules, today())];
      await db().transaction(async (tx) => {
        await holdCompleteness(tx);
        const parts = Array.from({ length: Math.ceil(ids.length / PART) }, (_, i) => ids.slice(i * PART, (i + 1) * PART));
        const read = (i: number) => look(lines[i % AHEAD] ?? tx, parts[i] ?? []);
        const ahead = parts.slice(0, AHEAD).map((_, i) => read(i));
        for (let i = 0; ahead.length > 0; i++) {
          // When one fails, nobody waits for those behind it any more.
          for (const flight of ahead) flight.catch(() => {});
          const looked = (await ahead.shift()) ?? [];
          if (i + AHEAD < parts.length) ahead.push(read(i + AHEAD));
          done += looked.length;
          await keep(tx, type, looked);
        }
      });
      await onProgress(done);
    }
  });
}

const completenessLooker = (type: string, rules: readonly ItemRule[], day: string) =>
  createChecklistEvaluator(type, rules, (facts) => completenessOf(standingItems(rules, facts, day), day));

/** The next ids of a type's records, rising. */
export async function idsAfter(type: string, after: number, limit: number): Promise<readonly number[]> {
  const rows = await db().execute<{ id: number }>(
    sql`select id from record where type = ${type} and id > ${after} order by id limit ${limit}`,
  );
  return rows.rows.map((r) => r.id);
}

async function refreshIn(tx: Tx, ids: readonly number[], rules: Rules): Promise<number> {
  const there = await tx.execute<{ id: number; type: string }>(
    sql`select id, type from record where id = any(${idArray(ids)}::bigint[]) order by id`,
  );
  const day = today();
  for (const type of new Set(there.rows.map((r) => r.type))) {
    const look = completenessLooker(type, rules.get(type) ?? [], day);
    const looked = await look(
      tx,
      there.rows.filter((r) => r.type === type).map((r) => r.id),
    );
    await keep(tx, type, looked);
  }
  return there.rows.length;
}

/** What is kept of a record, as a row of the table; days as text, sets as whole numbers. */
export const rowOf = (
  record: { readonly id: number; readonly company: string; readonly parentId: number | null; readonly responsibleId: string | null },
  type: string,
  kept: Completeness,
) => ({
  record_id: record.id,
  company: record.company,
  type,
  above_id: record.parentId,
  responsible_id: record.responsibleId,
  applies: Number(kept.applies),
  missing: Number(kept.missing),
  in_hand: Number(kept.received),
  lapsed: Number(kept.expired),
  waived: Number(kept.waived),
  due_on: kept.dueOn,
  lapses_on: kept.expiresOn,
  changes_on: kept.changesOn,
});

/** How records stand, as text: worked out once for all that are alike. */
const hows = new WeakMap<Completeness, string>();
function wouldBeKept(looked: EvaluatedRecord<Completeness>, type: string): string {
  let how = hows.get(looked.value);
  if (how === undefined) hows.set(looked.value, (how = serialiseCompleteness(rowOf(looked, type, looked.value))));
  return serialiseStoredCompleteness(looked, how);
}

/** Writes what differs: most records are as they were. */
async function keep(tx: Tx, type: string, looked: readonly EvaluatedRecord<Completeness>[]): Promise<void> {
  const none = looked.filter((l) => l.value.applies === 0n && l.kept !== null).map((l) => l.id);
  if (none.length > 0) await tx.execute(sql`delete from completeness where record_id = any(${idArray(none)}::bigint[])`);
  const rows = looked.flatMap((l) => {
    if (l.value.applies === 0n) return [];
    return l.kept === wouldBeKept(l, type) ? [] : [rowOf(l, type, l.value)];
  });
  if (rows.length === 0) return;
  await tx.execute(sql`insert into completeness (record_id, company, type, above_id, responsible_id, applies, missing, in_hand, lapsed, waived, due_on, lapses_on, changes_on)
    select * from json_to_recordset(${JSON.stringify(rows)}::json) as fresh(record_id bigint, company text, type text, above_id bigint, responsible_id text,
      applies bigint, missing bigint, in_hand bigint, lapsed bigint, waived bigint, due_on date, lapses_on date, changes_on date)
    on conflict (record_id) do update set company = excluded.company, type = excluded.type, above_id = excluded.above_id, responsible_id = excluded.responsible_id,
      applies = excluded.applies, missing = excluded.missing, in_hand = excluded.in_hand, lapsed = excluded.lapsed, waived = excluded.waived,
      due_on = excluded.due_on, lapses_on = excluded.lapses_on, changes_on = excluded.changes_on`);
}
