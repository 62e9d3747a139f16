import { sql } from "drizzle-orm";
import { db } from "#server/db/connect.ts";
import { textArray } from "#server/db/sql-arrays.ts";

/** A worker that was quiet for so long is dead, and its jobs are given to others, seconds. */
const DEAD_AFTER_SECONDS = 15;

/**
 * Says that this process lives, and with it everything that works in it, and frees the jobs that were locked by those that were killed, so that nothing
 * waits for them. What works here is never taken for dead, however long this process was kept from saying so: it would run the same job twice at once.
 */
export async function beat(process: string, workerIds: ReadonlySet<string>): Promise<void> {
  const own = [...workerIds];
  await db().execute(sql`insert into heartbeat (process, at)
    select p, now() from unnest(${textArray([process, ...own.map((id) => `runs:${id}`)])}::text[]) p on conflict (process) do update set at = now()`);
  await db()
    .execute(sql`with dead as (select distinct locked_by from graphile_worker._private_jobs where locked_at < now() - ${DEAD_AFTER_SECONDS} * interval '1 second'
      and locked_by <> all(${textArray(own)}::text[])
      and not exists (select 1 from heartbeat where process = 'runs:' || locked_by and at > now() - ${DEAD_AFTER_SECONDS} * interval '1 second'))
    select graphile_worker.force_unlock_workers(array(select locked_by from dead where locked_by is not null))`);
  await db().execute(sql`delete from heartbeat where at < now() - interval '1 hour'`);
}
