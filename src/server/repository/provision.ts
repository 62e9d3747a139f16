import { randomUUID } from "node:crypto";
import { eq, sql } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { presentations } from "#core/shared/refusals.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { openRepository } from "../filing-plan/open-repository.ts";
import { settleFolder } from "../filing-plan/settle-folder.ts";
import { addJob } from "../jobs/add-job.ts";
import { jobRun } from "../jobs/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { systemCode } from "../ports/system-code.ts";
import { textArray } from "../db/sql-arrays.ts";

/** Failures that are kept with their reason; the rest are counted. */
const FAILURES_KEPT = 2000;
/** Folders under way side by side: a server behind a line is mostly waited for. */
const AT_ONCE = 6;
/** Progress is told after so many folders. */
const TELL_EVERY = 50;

interface Input {
  readonly recordTypes: readonly string[];
  readonly connection: string | null;
  /** Only these records: those that failed before. */
  readonly recordIds: readonly number[];
}

/** Begins to make the folders of all records of some types, or again those that failed in an earlier run. Answers the job to watch. */
export async function beginProvision(
  actor: Actor,
  wish: { readonly recordTypes: readonly string[]; readonly connection: string | null; readonly again?: string | undefined },
): Promise<Result<{ job: string }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  let input: Input = { recordTypes: wish.recordTypes, connection: wish.connection, recordIds: [] };
  if (wish.again !== undefined) {
    const before = (await db().select().from(jobRun).where(eq(jobRun.id, wish.again)))[0];
    if (!before || before.kind !== "provision") return refuse("not-found");
    const ids = (before.failures as { recordId?: number }[]).flatMap((f) => (f.recordId === undefined ? [] : [f.recordId]));
    input = { ...(before.input as Input), recordIds: ids };
  }
  const id = randomUUID();
  await db().transaction(async (tx) => {
    await tx.insert(jobRun).values({ id, kind: "provision", label: "Creating folders", personId: actor.id, madeAt: now(), input });
    await addJob(tx, "provision", { job: id }, { key: `provision:${id}` });
  });
  return ok({ job: id });
}

/** The worker's part: every record gets its folder, in the database and in the repository; every one that does not is listed with its reason. Safe to run twice. */
export async function provision(jobId: string): Promise<void> {
  const job = (await db().select().from(jobRun).where(eq(jobRun.id, jobId)))[0];
  if (!job || !["waiting", "running"].includes(job.state)) return;
  const input = job.input as Input;
  const records = await db().execute<{ id: number; type: string; key: string; title: string }>(
    input.recordIds.length > 0
      ? sql`select id, type, key, title from record where id = any(${`{${input.recordIds.join(",")}}`}::bigint[]) order by id`
      : sql`select id, type, key, title from record where type = any(${textArray(input.recordTypes)}::text[]) order by id`,
  );
  const failures: { what: string; why: string; recordId: number }[] = [];
  let done = 0;
  let failed = 0;
  const tell = async (state: string): Promise<boolean> => {
    const told = await db()
      .update(jobRun)
      .set({ state, done, total: records.rows.length, failed, failures, ...(state === "done" ? { endedAt: now() } : {}) })
      .where(sql`${eq(jobRun.id, jobId)} and state in ('waiting','running')`)
      .returning({ id: jobRun.id });
    return told.length > 0;
  };
  await tell("running");
  let next = 0;
  let isStopped = false;
  const goOn = async (): Promise<void> => {
    for (let row = records.rows[next++]; row && !isStopped; row = records.rows[next++]) {
      const why = await makeOne(row.id, input.connection).catch((error: unknown) => {
        const code = systemCode(error) ?? "";
        return code in presentations ? wordsOf(code) : "it could not be made";
      });
      if (why === null) done++;
      else {
        failed++;
        if (failures.length < FAILURES_KEPT) failures.push({ what: `${row.key} ${row.title}`, why, recordId: row.id });
      }
      if ((done + failed) % TELL_EVERY === 0 && !(await tell("running"))) isStopped = true;
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, goOn));
  if (isStopped) return;
  await tell("done");
}

async function makeOne(recordId: number, only: string | null): Promise<string | null> {
  const settled = await db().transaction((tx) => settleFolder(tx, recordId, true));
  if (!settled.ok) return wordsOf(settled.refusal.code);
  const { connection, segments } = settled.value;
  if (only !== null && connection !== only) return null;
  const repository = await openRepository(connection);
  const path = segments.join("/");
  // A file of somebody else under the folder's name is told, not stepped over.
  if (await repository.look(path)) return "a file of that name stands there";
  await repository.makeFolder(path);
  return null;
}

function wordsOf(code: string): string {
  return code in presentations ? presentations[code as keyof typeof presentations].title : code;
}
