import { sql } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";

/** First half of the lock on one place in a repository; the second is the path's hash. */
const PATH_LOCK = 730_006;

/**
 * Until the transaction ends, nobody else puts a file at this path or takes one away. Files and rows cannot change in one step; the lock
 * makes it look so to everybody but a process that is killed, and what that leaves is put right by the job that runs again.
 */
export async function lockPath(tx: Tx, connection: string, path: string): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(${PATH_LOCK}, hashtext(${`${connection}/${path}`}))`);
}
