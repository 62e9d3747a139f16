import { and, eq, sql } from "drizzle-orm";
import { db } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import { carryStep } from "./carry-step.ts";
import { endPlan } from "./end-plan.ts";
import { keepOutcomes } from "./keep-outcomes.ts";
import { openRepository } from "./open-repository.ts";
import { written } from "./plan-step.ts";
import { movePlan } from "./tables.ts";
import { type Chunk, holdFolders, takeChunk } from "./take-chunk.ts";

/** Steps carried out between two looks at whether to stop: as many as take about a second, within these bounds. Tests make them smaller. */
export const chunkSize = { first: 500, min: 50, max: 2000 };

const CHUNK_MS = 1000;

/** Steps of one chunk that are under way side by side. */
const AT_ONCE = 8;

/** One job goes on for so long, then gives way to others and comes back, ms. */
const TURN_MS = 20_000;

/**
 * Carries a plan on, forwards or back, chunk by chunk: writes down what it is about to do, does it in the repository, writes down what came of it.
 * What came of one chunk is written down while the next is carried out. Killed anywhere and begun again it ends the same (promise 4): a step that
 * was under way is looked at, and either it happened or it is done now. Answers whether there is more to do.
 */
export async function carryPlan(planId: string, turnMs = TURN_MS): Promise<boolean> {
  const until = Date.now() + turnMs;
  let size = chunkSize.first;
  let keeping: Promise<void> = Promise.resolve();
  /** The chunk whose outcomes may still be being written down. */
  let before: Chunk | null = null;
  try {
    for (;;) {
      const began = performance.now();
      const chunk = await takeChunk(planId, before, size);
      // A wave goes by what the one before it left behind, and so does whoever turns back.
      const isNext = chunk.steps.length === 0 || chunk.wave !== before?.wave;
      if (isNext) await keeping;
      if (chunk.kind === "stopped") return false;
      if (chunk.kind === "turned") {
        before = null;
        continue;
      }
      if (chunk.steps.length === 0) {
        await endPlan(planId);
        return false;
      }
      written("chunk taken");
      // Held anew: what came of the wave before let go of the folders that both move.
      const folders = isNext && before !== null ? await holdFolders(db(), chunk.steps) : chunk.folders;
      const outcomes = await sideBySide(chunk.steps, AT_ONCE, async (step) => {
        const outcome = await carryStep(step, folders);
        written("one step");
        return outcome;
      });
      // Made safe while the one before is written down; written down after it.
      const safe = makeSafe(chunk);
      safe.catch(() => {});
      await keeping;
      keeping = safe.then(() => keepOutcomes(planId, outcomes)).then(() => written("outcomes kept"));
      // What goes wrong is thrown where it is waited for.
      keeping.catch(() => {});
      // There may be more that was left under way: it comes before anything new.
      if (chunk.wave === null) await keeping;
      else before = chunk;
      const took = Math.max(performance.now() - began, CHUNK_MS / 4);
      size = Math.round(Math.min(chunkSize.max, Math.max(chunkSize.min, (size * CHUNK_MS) / took)));
      if (Date.now() < until) continue;
      await keeping;
      await addJob(db(), "carryPlan", { plan: planId }, { key: `carry:${planId}`, queue: "moves" });
      return true;
    }
  } finally {
    await keeping.catch(() => {});
  }
}

/** Makes sure that what was moved stays moved. */
async function makeSafe(chunk: Chunk): Promise<void> {
  for (const connection of new Set(chunk.steps.map((s) => s.toConnection))) await (await openRepository(connection)).flush();
  written("files moved");
}

/** Says on a plan why it is not getting on; `stop` also stops it, so that a person goes on with it when what is wrong was put right. */
export async function pausePlan(planId: string, why: string, stop: boolean): Promise<void> {
  await db()
    .update(movePlan)
    .set({ why, ...(stop ? { state: "stopped" } : {}) })
    .where(and(eq(movePlan.id, planId), sql`state in ('running','undoing')`));
}
