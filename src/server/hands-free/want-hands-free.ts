import { and, eq } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import { handsFree } from "./tables.ts";

/** Seconds after a paper is ready: barcodes on it go first. */
const AFTER_SECONDS = 2;

/** Has an arrival looked at for hands-free filing, where its queue has any. In the caller's transaction. */
export async function wantHandsFree(tx: Tx, arrivalId: string, queue: string): Promise<void> {
  const on = await tx
    .select({ type: handsFree.documentType })
    .from(handsFree)
    .where(and(eq(handsFree.queue, queue), eq(handsFree.isOn, true)))
    .limit(1);
  if (on.length > 0)
    await addJob(tx, "handsFree", { arrivalId }, { key: `handsFree:${arrivalId}`, priority: 1, afterSeconds: AFTER_SECONDS });
}
