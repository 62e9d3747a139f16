import { sql } from "drizzle-orm";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { findVisibleRecord } from "./find-visible-record.ts";

/** Records of a person that are remembered; older ones are forgotten. */
const REMEMBERED_MAX = 200;

/** Remembers that a person opened a record, for their own list of records opened last. Refuses not-found. Twice is once. */
export async function noteOpened(
  actor: Actor,
  which: { readonly type: string; readonly key: string; readonly company?: string | undefined },
): Promise<Result<{ readonly done: true }>> {
  const row = await findVisibleRecord(actor, which.type, which.key, which.company);
  if (!row) return refuse("not-found");
  await db().transaction(async (tx) => {
    await tx.execute(sql`insert into record_opened (person_id, record_id, at) values (${actor.id}, ${row.id}, ${now()})
      on conflict (person_id, record_id) do update set at = excluded.at`);
    await tx.execute(sql`delete from record_opened o where o.person_id = ${actor.id} and o.record_id in
      (select record_id from record_opened where person_id = ${actor.id} order by at desc offset ${REMEMBERED_MAX})`);
  });
  return ok({ done: true });
}
