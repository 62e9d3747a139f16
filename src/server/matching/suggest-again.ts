import { sql } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { addJob } from "../jobs/add-job.ts";

/** Waiting arrivals that are looked at again for each record; a reference that more of them bear names nothing. */
const ARRIVALS_MAX = 300;
/** Several changes of one record are looked at together, seconds. */
const WAIT_SECONDS = 1;

/** Has waiting arrivals looked at again that bear one of the references of so many records: the order was entered after its invoice came. In the caller's transaction. */
export async function suggestForReferences(tx: Tx, references: readonly string[], records: number): Promise<void> {
  if (references.length === 0) return;
  const rows = await tx.execute<{ id: string }>(sql`select a.id from arrival_reading f join arrival a on a.id = f.arrival_id
    where f.probes && ${textArray(references)}::text[] and a.state in ('waiting','reading','ready','failed') limit ${ARRIVALS_MAX * records}`);
  for (const { id } of rows.rows) await suggestAgain(tx, id, WAIT_SECONDS);
}

/** Has one arrival looked at again. */
export async function suggestAgain(tx: Tx, arrivalId: string, afterSeconds = 0): Promise<void> {
  await addJob(tx, "suggest", { arrivalId }, { key: `suggest:${arrivalId}`, priority: 1, afterSeconds });
}
