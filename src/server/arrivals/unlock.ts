import { createReadStream } from "node:fs";
import { rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { eq } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import type { ArrivalProblem } from "#core/arrivals/problems.ts";
import { parseSha256, type ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { arrivalPage } from "../bench/tables.ts";
import { localFile } from "../documents/local-file.ts";
import { content } from "../documents/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { landingStore } from "../ports/adapters.ts";
import { now } from "../ports/clock.ts";
import type { Landed } from "../ports/landing-store.ts";
import { runTool } from "../reading/run-tool.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { loadArrivalFile } from "./list-arrivals.ts";
import { withLockedArrival } from "./with-locked-arrival.ts";
import { idFrom } from "./receive.ts";
import { arrival } from "./tables.ts";

/** Limits of the tool that opens a locked PDF. */
const OPENING = { timeoutMs: 30_000, stdoutMax: 64 * 1024 } as const;
/** qpdf: done, and done with warnings. */
const isDone = (exitCode: number | null): boolean => exitCode === 0 || exitCode === 3;

/**
 * Opens a locked PDF with its password: an arrival of its own holds the open copy and is read like any other; the locked original stays in the register as
 * *split*, and can be put back. The password is used once and kept nowhere. Twice is once. Refuses not-found, not-allowed, stale (it no longer waits, or is no
 * locked PDF), wrong-password, no-space.
 */
export async function unlock(actor: Actor, id: ArrivalId, password: string): Promise<Result<{ readonly arrival: ArrivalId }>> {
  const file = await loadArrivalFile(actor, id);
  if (!file) return refuse("not-found");
  const opened = await openCopy(await localFile(parseSha256(file.sha256)), password);
  if (!opened.ok) return opened;
  const { landed, pages } = opened.value;
  const copy = idFrom("unlocked", id);
  return withLockedArrival(actor, id, async (tx, row) => {
    if (row.state === "split" && row.endReason === REASON) return ok({ arrival: copy });
    if (!(openStates as readonly string[]).includes(row.state) || (row.problem as ArrivalProblem | null)?.code !== "locked")
      return refuse("stale");
    await tx
      .insert(content)
      .values({ sha256: landed.sha256, sizeBytes: landed.sizeBytes })
      .onConflictDoUpdate({ target: content.sha256, set: { isLanded: true } });
    const { company, queue, source, sender, note, fileName, recordId, documentType } = row;
    await tx
      .insert(arrival)
      .values({
        id: copy,
        parentId: id,
        part: 1,
        company,
        queue,
        source,
        sender,
        note,
        fileName,
        recordId,
        documentType,
        sha256: landed.sha256,
        sizeBytes: landed.sizeBytes,
        receivedAt: row.receivedAt,
        receivedBy: row.receivedBy,
      })
      .onConflictDoUpdate({ target: arrival.id, set: { state: "waiting", endedAt: null, endedBy: null, endReason: null } });
    await tx
      .insert(arrivalPage)
      .values(Array.from({ length: pages }, (_, i) => ({ arrivalId: copy, number: i + 1, fromArrival: id, fromPage: i + 1, turn: 0 })))
      .onConflictDoNothing();
    await tx.update(arrival).set({ state: "split", endedAt: now(), endedBy: actor.id, endReason: REASON }).where(eq(arrival.id, id));
    for (const arrivalId of [id, copy]) await writeLines(tx, [{ verb: "unlocked", who: actor.id, company, arrivalId }]);
    await addJob(tx, "read", { arrivalId: copy }, { key: `read:${copy}` });
    return ok({ arrival: copy });
  });
}

const REASON = "opened with its password";

/** An open copy of a locked PDF, kept, and its number of pages. The password reaches the tool in a file that only we can read, never on its command line. */
async function openCopy(file: string, password: string): Promise<Result<{ readonly landed: Landed; readonly pages: number }>> {
  const folder = await landingStore().makeWorkFolder();
  try {
    const [said, open] = [path.join(folder, "password"), path.join(folder, "open.pdf")];
    await writeFile(said, password, { mode: 0o600 });
    const made = await runTool("qpdf", [`--password-file=${said}`, "--decrypt", file, open], OPENING);
    if (!isDone(made.exitCode)) return refuse("wrong-password");
    const counted = await runTool("qpdf", ["--show-npages", open], OPENING);
    const kept = await landingStore().keep(createReadStream(open), Number.MAX_SAFE_INTEGER);
    return kept.ok ? ok({ landed: kept.value, pages: Number(counted.stdout.toString("utf8")) || 0 }) : kept;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
