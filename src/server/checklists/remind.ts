import { sql } from "drizzle-orm";
import { z } from "zod";
import { allowsRecord } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { recordFilter } from "../access/filters.ts";
import { db, type Tx } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import type { Actor } from "../people/load-actor.ts";
import { listTargets } from "../arrivals/hand-over.ts";
import { loadPerson } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { refreshMarked } from "./refresh-completeness.ts";

/** Records that can be named in one go. */
const AT_ONCE = 500;
const reference = z.object({ company: z.string().max(20), type: z.string().max(40), key: z.string().max(120) });
export const remindSchema = z.object({ records: z.array(reference).min(1).max(AT_ONCE), note: z.string().trim().max(300).default("") });
export const responsibleSchema = z.object({ records: z.array(reference).min(1).max(AT_ONCE), person: z.string().max(64).nullable() });

/**
 * Reminds whoever answers for each record of what is missing there: it stands on their desk until they have seen it. Records that nobody answers for are
 * told of. One open reminder of a record to a person is enough: a second only renews it.
 */
export async function remind(
  actor: Actor,
  wish: z.output<typeof remindSchema>,
): Promise<Result<{ readonly reminded: number; readonly people: number; readonly nobody: readonly string[] }>> {
  const rows = await mayEdit(actor, wish.records);
  if (!rows.ok) return rows;
  const ids = rows.value.map((r) => r.id);
  return db().transaction(async (tx) => {
    const answering = await tx.execute<{
      id: number;
      company: string;
      key: string;
      person: string | null;
      name: string | null;
    }>(sql`select r.id, r.company, r.key, u.id as person, u.name
      from record r left join record a on a.id = r.above_id left join "user" u on u.id = coalesce(r.responsible_id, a.responsible_id) where r.id = any(${idArray(ids)}::bigint[])`);
    const told = answering.rows.flatMap((r) => (r.person === null || r.name === null ? [] : [{ ...r, person: r.person, name: r.name }]));
    for (const r of told)
      await tx.execute(sql`insert into reminder (record_id, person_id, by, note, at) values (${r.id}, ${r.person}, ${actor.id}, ${wish.note}, ${now()})
        on conflict (record_id, person_id) where seen_at is null do update set at = excluded.at, by = excluded.by, note = excluded.note`);
    await writeLines(
      tx,
      told.map((r) => ({ verb: "reminded" as const, who: actor.id, company: r.company, recordId: r.id, details: { person: r.name } })),
    );
    return ok({
      reminded: told.length,
      people: new Set(told.map((r) => r.person)).size,
      nobody: answering.rows.filter((r) => r.person === null).map((r) => r.key),
    });
  });
}

/** A reminder on a person's desk. */
export interface ReminderAnswer {
  readonly id: number;
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly by: string;
  readonly note: string;
  readonly at: string;
}

/** What a person was reminded of and has not put away, newest first. */
export async function listReminders(actor: Actor): Promise<{ readonly items: readonly ReminderAnswer[] }> {
  const rows = await db().execute<
    Omit<ReminderAnswer, "at"> & { at: Date }
  >(sql`select m.id, record.company, record.type, record.key, record.title, u.name as by, m.note, m.at
    from reminder m join record on record.id = m.record_id join "user" u on u.id = m.by where m.person_id = ${actor.id} and m.seen_at is null and ${recordFilter(actor)} order by m.at desc, m.id desc limit 200`);
  return { items: rows.rows.map((r) => ({ ...r, at: new Date(r.at).toISOString() })) };
}

/** Puts reminders of one's own away; others' stay. Twice is once. */
export async function putAway(actor: Actor, ids: readonly number[]): Promise<Result<{ readonly done: number }>> {
  const done = await db().execute(
    sql`update reminder set seen_at = ${now()} where id = any(${idArray(ids)}::bigint[]) and person_id = ${actor.id} and seen_at is null`,
  );
  return ok({ done: done.rowCount ?? 0 });
}

/** Makes a person answer for records, or nobody in particular: then whoever answers for the account above does. Refuses not-allowed, not-found. */
export async function setResponsible(actor: Actor, wish: z.output<typeof responsibleSchema>): Promise<Result<{ readonly done: number }>> {
  const rows = await mayEdit(actor, wish.records);
  if (!rows.ok) return rows;
  const person = wish.person === null ? null : await loadPerson(wish.person);
  if (wish.person !== null && !person) return refuse("not-found");
  if (person && rows.value.some((r) => !allowsRecord(person.grants, "see", r.company, r.type)))
    return refuse("bad-input", `${person.name} may not see all of these records`);
  const changed = await db().transaction(async (tx: Tx) => {
    const ids = rows.value.map((r) => r.id);
    const updated = await tx.execute<{ id: number; company: string }>(
      sql`update record set responsible_id = ${wish.person} where id = any(${idArray(ids)}::bigint[]) and responsible_id is distinct from ${wish.person} returning id, company`,
    );
    await writeLines(
      tx,
      updated.rows.map((r) => ({
        verb: "responsibleSet" as const,
        who: actor.id,
        company: r.company,
        recordId: r.id,
        details: { person: person?.name ?? "nobody" },
      })),
    );
    return updated.rows.map((r) => r.id);
  });
  await refreshMarked(changed);
  return ok({ done: changed.length });
}

async function mayEdit(actor: Actor, wanted: z.output<typeof remindSchema>["records"]) {
  const rows = [];
  for (const r of wanted) {
    const row = await findVisibleRecord(actor, r.type, r.key, r.company);
    if (!row) return refuse("not-found", `${r.type} ${r.key}`);
    if (!allowsRecord(actor.grants, "edit", row.company, row.type)) return refuse("not-allowed");
    rows.push(row);
  }
  return ok(rows);
}

/** People who can answer for records of one's companies: oneself, and whoever may file there. */
export async function listAnswering(actor: Actor): Promise<readonly { readonly id: string; readonly name: string }[]> {
  const { people } = await listTargets(actor);
  return [{ id: actor.id, name: actor.name }, ...people].sort((a, b) => a.name.localeCompare(b.name));
}
