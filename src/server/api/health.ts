import { sql } from "drizzle-orm";
import { db } from "../db/connect.ts";
import { FIRST_CONNECTION } from "#core/filing-plan/folder-rule.ts";
import { listConnectionsInUse, openRepository } from "../filing-plan/open-repository.ts";

/** Worker signs of life older than this mean that nothing is read or placed, seconds. */
const WORKER_QUIET_SECONDS = 30;
export const VERSION = "0.1.0";

/** Whether the program can take work: database, worker, repository. Never throws. */
export async function checkHealth(): Promise<{
  readonly status: "ok" | "down";
  readonly version: string;
  readonly checks: Readonly<Record<"database" | "worker" | "repository", boolean>>;
}> {
  let database = false;
  let worker = false;
  let repository = false;
  try {
    const beat = await db().execute<{ alive: boolean }>(
      sql`select exists (select 1 from heartbeat where process like 'worker:%' and at > now() - ${WORKER_QUIET_SECONDS} * interval '1 second') as alive`,
    );
    database = true;
    worker = beat.rows[0]?.alive === true;
    // Before the set-up there is none to check; further ones may be away without stopping the work.
    const first = (await listConnectionsInUse()).find((c) => c.key === FIRST_CONNECTION);
    repository = first ? await (await openRepository(first.key)).check() : true;
  } catch {
    // What could not be asked stays false.
  }
  return { status: database && worker && repository ? "ok" : "down", version: VERSION, checks: { database, worker, repository } };
}
