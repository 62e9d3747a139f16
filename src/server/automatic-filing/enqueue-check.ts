import type { Tx } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";

/** Has it worked out again what a person made of a document: it was filed, changed or taken back. In the caller's transaction. */
export async function enqueueCheck(tx: Tx, documentId: number): Promise<void> {
  await addJob(tx, "checkAutomaticFiling", { documentId }, { key: `checkHandsFree:${documentId}`, priority: 2, afterSeconds: 1 });
}
