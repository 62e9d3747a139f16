import { sql } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";

/** Priorities of the stage `look`: lower goes first. A document that somebody has open goes before all others, long ones after short ones. */
const OPEN_FIRST = -5;
const LONGEST_LAST = 12;

/** Priority of a document with so many pages still to be looked at: one page 0, two 1, 260 pages 8. Pure. */
export const priorityOfPages = (pages: number): number => Math.min(LONGEST_LAST, Math.floor(Math.log2(Math.max(1, pages))));

/** Has the pictures of a content's pages looked at: short documents and those somebody has open first. In the caller's transaction. */
export async function enqueueAnalysis(tx: Tx, sha256: string): Promise<void> {
  const { rows } = await tx.execute<{ pages: number; open: boolean }>(sql`select
    (select count(*)::int from content_page p where p.sha256 = ${sha256} and p.ink is null) as pages,
    exists (select from arrival a where a.sha256 = ${sha256} and a.claimed_until > now()) as open`);
  const { pages = 1, open = false } = rows[0] ?? {};
  await addJob(tx, "analysePages", { sha256 }, { key: `look:${sha256}`, priority: open ? OPEN_FIRST : priorityOfPages(pages) });
}

/** Moves a content that waits to be looked at to the front, because somebody has opened it. What is in work already is left as it is. */
export async function analyseSooner(tx: Tx, sha256: string): Promise<void> {
  await tx.execute(sql`select graphile_worker.reschedule_jobs(array_agg(id), priority := ${OPEN_FIRST}::int)
    from graphile_worker.jobs where key = ${`look:${sha256}`} and locked_at is null having count(*) > 0`);
}
