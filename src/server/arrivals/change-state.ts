import { and, eq, inArray } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { type ArrivalId, parseSha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { content } from "../documents/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { stopAnalysis } from "../reading/analyse-pages.ts";
import { suggestAgain } from "../matching/suggest-again.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { withLockedArrival } from "./with-locked-arrival.ts";
import { claimedByOther } from "./claim.ts";
import { forgetTaughtBy, teachJunk } from "./junk.ts";
import { finishAnalysed } from "./finish-reading.ts";
import { arrival } from "./tables.ts";

/**
 * Sets an arrival aside (junk or not needed). It stays in the register and can be restored. Twice is once. As junk it also teaches that what its
 * sender sends is junk; restoring it takes that back. Refuses claimed while somebody else works on it.
 */
export async function setAside(actor: Actor, id: ArrivalId, reason: string, isJunk = false): Promise<Result<{ state: string }>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    if (row.state === "setAside") return ok({ state: "setAside" });
    const other = await claimedByOther(tx, actor, row);
    if (other !== null) return refuse("claimed", other);
    const done = await tx
      .update(arrival)
      .set({ state: "setAside", endedAt: now(), endedBy: actor.id, endReason: reason })
      .where(and(eq(arrival.id, id), inArray(arrival.state, [...openStates])))
      .returning({ id: arrival.id });
    if (!done[0]) return refuse("stale");
    await writeLines(tx, [{ verb: "setAside", who: actor.id, company: row.company, arrivalId: id, details: { reason } }]);
    if (isJunk) await teachJunk(tx, actor, row);
    return ok({ state: "setAside" });
  });
}

/** Brings one that was set aside back to Arrivals, as it was. Twice is once. */
export async function restore(actor: Actor, id: ArrivalId, reason: string): Promise<Result<{ state: string }>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    if ((openStates as readonly string[]).includes(row.state)) return ok({ state: row.state });
    const known = (await tx.select({ state: content.state }).from(content).where(eq(content.sha256, row.sha256)))[0]?.state;
    const state = known === "read" ? "ready" : known === "failed" ? "failed" : "waiting";
    const done = await tx
      .update(arrival)
      .set({ state, endedAt: null, endedBy: null, endReason: null, aside: false })
      .where(and(eq(arrival.id, id), eq(arrival.state, "setAside")))
      .returning({ id: arrival.id });
    if (!done[0]) return refuse("stale");
    await forgetTaughtBy(tx, actor, row);
    await writeLines(tx, [{ verb: "restored", who: actor.id, company: row.company, arrivalId: id, details: { reason } }]);
    if (state === "ready") await suggestAgain(tx, id);
    if (state === "waiting") await addJob(tx, "read", { arrivalId: id }, { key: `read:${id}` });
    return ok({ state });
  });
}

/** Has a failed arrival read again from its kept bytes. */
export async function readAgain(actor: Actor, id: ArrivalId): Promise<Result<{ state: string }>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    const done = await tx
      .update(arrival)
      .set({ state: "waiting", problem: null })
      .where(and(eq(arrival.id, id), inArray(arrival.state, ["failed", "ready"])))
      .returning({ id: arrival.id });
    if (!done[0]) return row.state === "waiting" || row.state === "reading" ? ok({ state: row.state }) : refuse("stale");
    await tx.update(content).set({ state: "unread" }).where(eq(content.sha256, row.sha256));
    await writeLines(tx, [{ verb: "triedAgain", who: actor.id, company: row.company, arrivalId: id }]);
    await addJob(tx, "read", { arrivalId: id }, { key: `read:${id}` });
    return ok({ state: "waiting" });
  });
}

/** Ends reading the pictures of an arrival's pages: it is ready with what is known. What was over already stays so. */
export async function stopReading(actor: Actor, id: ArrivalId): Promise<Result<{ state: string }>> {
  const row = await withLockedArrival(actor, id, async (_tx, found) => ok(found));
  if (!row.ok) return row;
  const sha256 = parseSha256(row.value.sha256);
  if (await stopAnalysis(sha256)) await finishAnalysed(sha256);
  return ok({ state: (await db().select({ state: arrival.state }).from(arrival).where(eq(arrival.id, id)))[0]?.state ?? row.value.state });
}

/** Says what kind of document an arrival is, before it is filed. Refuses unknown-type and stale. */
export async function sayType(actor: Actor, id: ArrivalId, documentType: string): Promise<Result<{ documentType: string }>> {
  const type = await loadDocumentType(documentType);
  if (!type) return refuse("unknown-type", documentType);
  return withLockedArrival(actor, id, async (tx, row) => {
    if (!(openStates as readonly string[]).includes(row.state)) return refuse("stale");
    await tx.update(arrival).set({ documentType }).where(eq(arrival.id, id));
    await suggestAgain(tx, id);
    if (row.documentType !== documentType)
      await writeLines(tx, [
        { verb: "typeSaid", who: actor.id, company: row.company, arrivalId: id, details: { documentType: type.label.toLowerCase() } },
      ]);
    return ok({ documentType });
  });
}

/** Says that an arrival is another document than those it looks like; they are not told of again. */
export async function tellApart(actor: Actor, id: ArrivalId, other: string): Promise<Result<{ done: boolean }>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    await tx.update(arrival).set({ toldApart: true }).where(eq(arrival.id, id));
    if (!row.toldApart)
      await writeLines(tx, [{ verb: "toldApart", who: actor.id, company: row.company, arrivalId: id, details: { other } }]);
    return ok({ done: true });
  });
}

/** Gives an arrival another name; the kept bytes stay as they are. */
export async function renameArrival(actor: Actor, id: ArrivalId, fileName: string): Promise<Result<{ fileName: string }>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    await tx
      .update(arrival)
      .set({ fileName })
      .where(and(eq(arrival.id, id), inArray(arrival.state, [...openStates])));
    if (fileName !== row.fileName)
      await writeLines(tx, [{ verb: "renamed", who: actor.id, company: row.company, arrivalId: id, details: { fileName } }]);
    return ok({ fileName });
  });
}
