import { sql } from "drizzle-orm";
import { z } from "zod";
import { type JobName, jobNames } from "#server/jobs/job-names.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { finishAnalysed } from "#server/arrivals/finish-reading.ts";
import { giveUpReading } from "#server/arrivals/read-arrival.ts";
import { db } from "#server/db/connect.ts";
import { giveUpPlacing } from "#server/filing-plan/place-document.ts";
import { addJob } from "#server/jobs/add-job.ts";
import { giveUpAnalysis } from "#server/reading/analyse-pages.ts";
import { giveUpImport } from "#server/records/import-records.ts";

/** Waiting before each new round, seconds. After the last one a thing that can be given up on is; the rest goes on at that pace. */
const ROUNDS_SECONDS = [5, 15, 60, 300] as const;
/** Jobs looked at in one go. */
const AT_ONCE = 200;

const payloadSchema = z.looseObject({
  round: z.number().int().default(0),
  arrivalId: z.string().optional(),
  documentId: z.number().optional(),
  sha256: z.string().optional(),
  job: z.string().optional(),
});
type Payload = z.infer<typeof payloadSchema>;

/**
 * Jobs whose tries are used up without anybody having been told: the worker was killed at each of them, or the database was away when it
 * would have said so. They are begun again a few times, further apart; then what waits for them says that it was given up on, so that
 * nothing ever waits for a job that will not come. Answers how many were taken up.
 */
export async function takeUpLost(): Promise<number> {
  return db().transaction(async (tx) => {
    const lost = await tx.execute<{
      id: number;
      task: string;
      key: string | null;
      payload: unknown;
    }>(sql`select j.id, t.identifier as task, j.key, j.payload
      from graphile_worker._private_jobs j join graphile_worker._private_tasks t on t.id = j.task_id
      where j.attempts >= j.max_attempts and j.locked_at is null order by j.id limit ${AT_ONCE} for update of j skip locked`);
    for (const job of lost.rows) {
      const payload = payloadSchema.parse(job.payload);
      const stage = jobNames.find((s) => s === job.task);
      await tx.execute(sql`delete from graphile_worker._private_jobs where id = ${job.id}`);
      if (!stage) continue;
      const seconds = ROUNDS_SECONDS[payload.round];
      if (seconds === undefined && (await giveUp(stage, payload))) continue;
      const again = { ...payload, round: Math.min(payload.round + 1, ROUNDS_SECONDS.length) };
      await addJob(tx, stage, again, { ...(job.key === null ? {} : { key: job.key }), afterSeconds: seconds ?? ROUNDS_SECONDS[3] });
    }
    return lost.rows.length;
  });
}

/** Says on the thing itself that it was given up on; false when there is nothing that could say so, and it has to go on. */
async function giveUp(stage: JobName, payload: Payload): Promise<boolean> {
  if (stage === "read" && payload.arrivalId !== undefined) await giveUpReading(payload.arrivalId);
  else if (stage === "analysePages" && payload.sha256 !== undefined) {
    const sha256 = parseSha256(payload.sha256);
    await giveUpAnalysis(sha256);
    await finishAnalysed(sha256);
  } else if (stage === "place" && payload.documentId !== undefined) await giveUpPlacing(payload.documentId, "tried many times");
  else if (stage === "importRecords" && payload.job !== undefined) await giveUpImport(payload.job);
  else return false;
  return true;
}
