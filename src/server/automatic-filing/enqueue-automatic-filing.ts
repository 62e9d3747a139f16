import { and, eq } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import { automaticFiling } from "./tables.ts";

/** Seconds after a document is ready: barcodes on it go first. */
const AFTER_SECONDS = 2;

/** Has an arrival looked at for automatic filing, where its queue has any. In the caller's transaction. */
export async function enqueueAutomaticFiling(tx: Tx, arrivalId: string, queue: string): Promise<void> {
  const on = await tx
    .select({ type: automaticFiling.documentType })
    .from(automaticFiling)
    .where(and(eq(automaticFiling.queue, queue), eq(automaticFiling.isOn, true)))
    .limit(1);
  if (on.length > 0)
    await addJob(tx, "fileAutomatically", { arrivalId }, { key: `handsFree:${arrivalId}`, priority: 1, afterSeconds: AFTER_SECONDS });
}
