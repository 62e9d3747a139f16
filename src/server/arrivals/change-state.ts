import { and, eq, inArray, type SQL, sql } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { openStates } from "#core/arrivals/journey.ts";
import { type ArrivalId, parseSha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { arrivalFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { content } from "../documents/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { stopLooking } from "../reading/look-at-content.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { finishLooked } from "./finish-reading.ts";
import { arrival } from "./tables.ts";

/** Sets an arrival aside (junk or not needed). It stays in the register and can be restored. Twice is once. */
export async function setAside(actor: Actor, id: ArrivalId, reason: string): Promise<Result<{ state: string }>> {
  return change(actor, id, async (tx, row) => {
    if (row.state === "setAside") return ok({ state: "setAside" });
    const done = await tx
      .update(arrival)
      .set({ state: "setAside", endedAt: now(), endedBy: actor.id, endReason: reason })
      .where(and(eq(arrival.id, id), inArray(arrival.state, [...openStates])))
      .returning({ id: arrival.id });
    if (!done[0]) return refuse("stale");
    await writeLines(tx, [{ verb: "setAside", who: actor.id, company: row.company, arrivalId: id, details: { reason } }]);
    return ok({ state: "setAside" });
  });
}

/** Brings one that was set aside back to Arrivals, as it was. Twice is once. */
export async function restore(actor: Actor, id: ArrivalId, reason: string): Promise<Result<{ state: string }>> {
  return change(actor, id, async (tx, row) => {
    if ((openStates as readonly string[]).includes(row.state)) return ok({ state: row.state });
    const known = (await tx.select({ state: content.state }).from(content).where(eq(content.sha256, row.sha256)))[0]?.state;
    const state = known === "read" ? "ready" : known === "failed" ? "failed" : "waiting";
    const done = await tx
      .update(arrival)
      .set({ state, endedAt: null, endedBy: null, endReason: null, aside: false })
      .where(and(eq(arrival.id, id), eq(arrival.state, "setAside")))
      .returning({ id: arrival.id });
    if (!done[0]) return refuse("stale");
    await writeLines(tx, [{ verb: "restored", who: actor.id, company: row.company, arrivalId: id, details: { reason } }]);
    if (state === "waiting") await addJob(tx, "read", { arrivalId: id }, { key: `read:${id}` });
    return ok({ state });
  });
}

/** Has a failed arrival read again from its kept bytes. */
export async function readAgain(actor: Actor, id: ArrivalId): Promise<Result<{ state: string }>> {
  return change(actor, id, async (tx, row) => {
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
  const row = await change(actor, id, async (_tx, found) => ok(found));
  if (!row.ok) return row;
  const sha256 = parseSha256(row.value.sha256);
  if (await stopLooking(sha256)) await finishLooked(sha256);
  return ok({ state: (await db().select({ state: arrival.state }).from(arrival).where(eq(arrival.id, id)))[0]?.state ?? row.value.state });
}

/** Gives an arrival another name; the kept bytes stay as they are. */
export async function renameArrival(actor: Actor, id: ArrivalId, fileName: string): Promise<Result<{ fileName: string }>> {
  return change(actor, id, async (tx, row) => {
    await tx
      .update(arrival)
      .set({ fileName })
      .where(and(eq(arrival.id, id), inArray(arrival.state, [...openStates])));
    if (fileName !== row.fileName)
      await writeLines(tx, [{ verb: "renamed", who: actor.id, company: row.company, arrivalId: id, details: { fileName } }]);
    return ok({ fileName });
  });
}

type Row = typeof arrival.$inferSelect;
type Transaction = Parameters<Parameters<ReturnType<typeof db>["transaction"]>[0]>[0];

/** One arrival under the person's filter, locked for the change; what is not seen is not there. */
async function change<T>(actor: Actor, id: ArrivalId, act: (tx: Transaction, row: Row) => Promise<Result<T>>): Promise<Result<T>> {
  const filter: SQL = await arrivalFilter(actor);
  if (!allowsAnywhere(actor.grants, "file") && !allowsAnywhere(actor.grants, "add")) return refuse("not-allowed");
  return db().transaction(async (tx) => {
    const rows = await tx
      .select()
      .from(arrival)
      .where(sql`${eq(arrival.id, id)} and ${filter}`)
      .for("update");
    const row = rows[0];
    return row ? act(tx, row) : refuse("not-found");
  });
}
