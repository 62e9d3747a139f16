import { AsyncLocalStorage } from "node:async_hooks";
import { sql } from "drizzle-orm";
import type { JobName } from "./job-names.ts";
import type { Tx } from "../db/connect.ts";

/** Times a job is tried before it is given up on and shown to a person. */
export const JOB_ATTEMPTS = 4;

const doneAtOnce = new AsyncLocalStorage<true>();

/** Runs something that does by itself, at once, all that jobs would do after it (the demo fill): none is queued meanwhile. */
export function withoutJobs<T>(run: () => Promise<T>): Promise<T> {
  return doneAtOnce.run(true, run);
}

/**
 * Queues a job in the caller's transaction: when that commits the job is there, when not it never was. The same key while
 * one is waiting is the same job; jobs are safe to run twice all the same.
 */
export async function addJob(
  tx: Tx,
  stage: JobName,
  payload: Readonly<Record<string, unknown>>,
  options: { readonly key?: string; readonly priority?: number; readonly queue?: string; readonly afterSeconds?: number } = {},
): Promise<void> {
  if (doneAtOnce.getStore()) return;
  await tx.execute(sql`select graphile_worker.add_job(
    ${stage}::text, payload := ${JSON.stringify(payload)}::json, max_attempts := ${JOB_ATTEMPTS}::int,
    job_key := ${options.key ?? null}::text, priority := ${options.priority ?? 0}::int, queue_name := ${options.queue ?? null}::text,
    run_at := now() + ${options.afterSeconds ?? 0} * interval '1 second')`);
}

/** The same for many jobs of one name, in one statement. */
export async function addJobs(
  tx: Tx,
  stage: JobName,
  jobs: readonly { readonly payload: Readonly<Record<string, unknown>>; readonly key: string }[],
): Promise<void> {
  if (doneAtOnce.getStore() || jobs.length === 0) return;
  await tx.execute(sql`select graphile_worker.add_job(${stage}::text, payload := j.payload, max_attempts := ${JOB_ATTEMPTS}::int, job_key := j.key)
    from json_to_recordset(${JSON.stringify(jobs)}::json) as j(payload json, key text)`);
}
