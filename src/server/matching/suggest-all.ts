import { eq, sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { fileAutomatically } from "../automatic-filing/file-automatically.ts";
import { automaticFiling } from "../automatic-filing/tables.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import { suggestForSome } from "./suggest-for.ts";
import { suggestQuietly } from "./suggest-quietly.ts";
import { loadWeights } from "./weights.ts";

/** Arrivals found for together: enough that questions to the database are few, few enough that other work of the process is not held up. */
const TOGETHER = 20;
/** While the database works on one lot the process works on the other. */
const LOTS_AT_ONCE = 2;
/** Arrivals listed at a time. */
const LISTED = 1000;

/**
 * Looks at all that waits and was found for with other weights than those in use. One that cannot be looked at is passed over and tried again later by
 * itself. Broken off, it goes on where it was. Answers how many were looked at.
 */
export async function suggestAll(): Promise<number> {
  const { version } = await loadWeights();
  const queues = new Set(
    (await db().select({ queue: automaticFiling.queue }).from(automaticFiling).where(eq(automaticFiling.isOn, true))).map((r) => r.queue),
  );
  let looked = 0;
  for (let after = 0; ;) {
    const { rows } = await db().execute<{ id: string; number: number; queue: string }>(sql`
      select a.id, a.number, a.queue from arrival a join arrival_reading f on f.arrival_id = a.id
      where a.state = any(${textArray(openStates)}::text[]) and f.weights_version <> ${version} and a.number > ${after} order by a.number limit ${LISTED}`);
    if (rows.length === 0) return looked;
    const lots = Array.from({ length: Math.ceil(rows.length / TOGETHER) }, (_, i) => rows.slice(i * TOGETHER, (i + 1) * TOGETHER));
    await sideBySide(lots, LOTS_AT_ONCE, async (lot) => {
      try {
        await suggestForSome(lot.map((r) => r.id));
      } catch {
        // One of them spoils it for all: each for itself, and what went wrong is said there.
        for (const { id } of lot) await suggestQuietly(id);
      }
      // What is sure now may be for no person any more.
      for (const { id, queue } of lot) if (queues.has(queue)) await fileAutomatically(id);
    });
    looked += rows.length;
    after = rows.at(-1)?.number ?? after;
  }
}
