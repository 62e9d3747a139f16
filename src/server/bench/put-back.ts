import { eq, inArray, or, sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { arrivalFilter } from "../access/filters.ts";
import { arrival } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { content } from "../documents/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { arrivalPage } from "./tables.ts";

/**
 * Undoes what the bench made of an arrival: it waits again as it was, with all that went into the same documents, and those are set aside. Twice is once.
 * Refuses not-found, stale (it was not taken apart), still-there while one of those documents is filed, or was taken apart again.
 */
export async function putBack(actor: Actor, id: ArrivalId): Promise<Result<{ readonly restored: readonly string[] }>> {
  const filter = await arrivalFilter(actor);
  return db().transaction(async (tx) => {
    const sources = new Set<string>([id]);
    const made = new Set<string>();
    // Documents of several sources lead to further sources, and those to further documents; both are few.
    for (let before = -1; before < sources.size + made.size;) {
      before = sources.size + made.size;
      const rows = await tx
        .select({ made: arrivalPage.arrivalId, from: arrivalPage.fromArrival })
        .from(arrivalPage)
        .where(or(inArray(arrivalPage.fromArrival, [...sources]), ...(made.size > 0 ? [inArray(arrivalPage.arrivalId, [...made])] : [])));
      for (const row of rows) {
        made.add(row.made);
        if (row.from !== null) sources.add(row.from);
      }
    }
    const rows = await tx
      .select({ row: arrival, contentState: content.state })
      .from(arrival)
      .innerJoin(content, eq(content.sha256, arrival.sha256))
      .where(inArray(arrival.id, [...sources, ...made]))
      .orderBy(arrival.number)
      .for("update", { of: arrival });
    const seen = await tx
      .select({ id: arrival.id })
      .from(arrival)
      .where(sql`${inArray(arrival.id, [...sources])} and ${filter}`);
    const mine = rows.find((r) => r.row.id === id);
    // All of them, or what one may not see would come back by another's word.
    if (!mine || seen.length < sources.size) return refuse("not-found");
    if ((openStates as readonly string[]).includes(mine.row.state)) return ok({ restored: [id] });
    if (!["split", "joined"].includes(mine.row.state)) return refuse("stale");
    const papers = rows.filter((r) => made.has(r.row.id));
    const inUse = papers.find((r) => !(openStates as readonly string[]).includes(r.row.state) && r.row.state !== "setAside");
    if (inUse) return refuse("still-there", inUse.row.fileName);
    const back = rows.filter((r) => sources.has(r.row.id) && ["split", "joined"].includes(r.row.state));
    await tx
      .update(arrival)
      .set({ state: "setAside", endedAt: now(), endedBy: actor.id, endReason: "split undone" })
      .where(inArray(arrival.id, [...made]));
    for (const { row, contentState } of back)
      await tx
        .update(arrival)
        .set({ state: contentState === "failed" ? "failed" : "ready", endedAt: null, endedBy: null, endReason: null })
        .where(eq(arrival.id, row.id));
    await writeLines(tx, [
      ...back.map(({ row }) => ({ verb: "putBack" as const, who: actor.id, company: row.company, arrivalId: row.id })),
      ...papers.map(({ row }) => ({
        verb: "setAside" as const,
        who: actor.id,
        company: row.company,
        arrivalId: row.id,
        details: { reason: "split undone" },
      })),
    ]);
    return ok({ restored: back.map((r) => r.row.id) });
  });
}
