import { and, eq, sql } from "drizzle-orm";
import { alone, db } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import { carryStep } from "./carry-step.ts";
import { carryTogether, type Together } from "./carry-together.ts";
import { endPlan, LeftBehind } from "./end-plan.ts";
import { keepOutcomes } from "./keep-outcomes.ts";
import { foldSteps } from "./fold-steps.ts";
import { openRepository } from "./open-repository.ts";
import { type Outcome, parentOf, type Step, written } from "./plan-step.ts";
import { movePlan } from "./tables.ts";
import { type Chunk, holdFolders, takeChunk } from "./take-chunk.ts";

/** Steps carried out between two looks at whether to stop: as many as take about a second, within these bounds. Tests make them smaller. */
export const chunkSize = { first: 500, min: 50, max: 2000 };

const CHUNK_MS = 1000;

/** Steps of one chunk that are under way side by side. */
const AT_ONCE = 8;

/** Chunks of whole folders that are written down side by side; files may need the same new folder, and are written down one chunk after the other. */
const KEPT_AT_ONCE = 2;

/** Held by whoever carries a plan. */
const CARRY_LOCK = 730_011;

/** One job goes on for so long, then gives way to others and comes back, ms. */
const TURN_MS = 20_000;

/**
 * Carries a plan on, forwards or back, chunk by chunk: writes down what it is about to do, does it in the repository, writes down what came of it.
 * What came of one chunk is written down while the next is carried out. Killed anywhere and begun again it ends the same (promise 4): a step that
 * was under way is looked at, and either it happened or it is done now. One at a time
 * carries a plan; another waits for as long as its own turn. Answers whether there is more to do.
 */
export async function executeMovePlan(planId: string, turnMs = TURN_MS): Promise<boolean> {
  const until = Date.now() + turnMs;
  // Whoever moves one record does it at once, and has a job for the rest: two that carried the same step would take each other for somebody else.
  const turn = await alone(CARRY_LOCK, planId, until, () => carryAlone(planId, until));
  if (turn) return turn.answer;
  await comeBack(planId);
  return true;
}

const comeBack = (planId: string): Promise<void> =>
  addJob(db(), "executeMovePlan", { plan: planId }, { key: `carry:${planId}`, queue: "moves" });

async function carryAlone(planId: string, until: number): Promise<boolean> {
  await foldSteps(planId);
  let size = chunkSize.first;
  const keeping: Promise<void>[] = [];
  /** Until so many chunks at most are being written down. What goes wrong is thrown here. */
  const kept = async (many = 0): Promise<void> => {
    while (keeping.length > many) await keeping.shift();
  };
  /** The chunk whose outcomes may still be being written down. */
  let before: Chunk | null = null;
  /** What was left behind, as long as it is known of all that the plan carried out. */
  let left: LeftBehind | null = null;
  /** The next chunk, being taken. */
  let ahead: Promise<Chunk> | null = null;
  try {
    for (;;) {
      const began = performance.now();
      const chunk: Chunk = await (ahead ?? takeChunk(planId, before, size));
      ahead = null;
      // A wave goes by what the one before it left behind, and so does whoever turns back.
      const isNext = chunk.steps.length === 0 || chunk.wave !== before?.wave;
      if (isNext) await kept();
      if (chunk.kind === "stopped") return false;
      if (chunk.kind === "turned") {
        before = left = null;
        continue;
      }
      if (chunk.steps.length === 0) {
        await endPlan(planId, chunk.isBack, left);
        return false;
      }
      written("chunk taken");
      if (chunk.isBeginning && !chunk.isBack) left = new LeftBehind();
      // Held again: the wave before may have moved what this one moves on.
      const elsewhere = isNext && before !== null ? await holdFolders(planId, chunk.steps) : chunk.elsewhere;
      // Taken while this one is carried out, unless the turn ends first.
      if (chunk.wave !== null && Date.now() < until - CHUNK_MS) {
        ahead = takeChunk(planId, chunk, size);
        ahead.catch(() => {});
      }
      const together = await carryTogether(chunk.steps, elsewhere);
      if (together.steps.size > 0) written("steps together");
      const outcomes = await carryEach(chunk.steps, together, elsewhere);
      for (const { connection, from } of together.renamed) left?.enter(connection, parentOf(from));
      for (const { kind, step } of outcomes) if (kind === "moved" && !together.steps.has(step)) left?.add(step);
      // Made safe while those before are written down; written down after it.
      const safe = makeSafe(chunk, together);
      safe.catch(() => {});
      await kept(chunk.steps.every((step) => step.kind === "folder") ? KEPT_AT_ONCE - 1 : 0);
      const down = safe.then(() => keepOutcomes(planId, outcomes)).then(() => written("outcomes kept"));
      down.catch(() => {});
      keeping.push(down);
      // There may be more that was left under way: it comes before anything new.
      if (chunk.wave === null) await kept();
      else before = chunk;
      const took = Math.max(performance.now() - began, CHUNK_MS / 4);
      size = Math.round(Math.min(chunkSize.max, Math.max(chunkSize.min, (size * CHUNK_MS) / took)));
      if (Date.now() < until) continue;
      await kept();
      await comeBack(planId);
      return true;
    }
  } finally {
    await Promise.allSettled([...keeping, ahead]);
  }
}

/** Carries out what was not carried out together; answers what came of all of them, in their order. */
async function carryEach(steps: readonly Step[], together: Together, elsewhere: Chunk["elsewhere"]): Promise<readonly Outcome[]> {
  const alone = await sideBySide(
    steps.filter((step) => !together.steps.has(step)),
    AT_ONCE,
    async (step) => {
      const outcome = await carryStep(step, elsewhere);
      written("one step");
      return outcome;
    },
  );
  let next = 0;
  return steps.flatMap((step) => (together.steps.has(step) ? { step, kind: "moved" as const, why: null } : (alone[next++] ?? [])));
}

/** Makes sure that what was moved stays moved. */
async function makeSafe(chunk: Chunk, together: Together): Promise<void> {
  const touched = new Map<string, Set<string>>();
  const touch = (connection: string, path: string): void => {
    const folders = touched.get(connection) ?? new Set();
    touched.set(connection, folders.add(parentOf(path)));
  };
  for (const { connection, from, to } of together.renamed) for (const path of [from, to]) touch(connection, path);
  for (const step of chunk.steps) {
    if (together.steps.has(step)) continue;
    touch(step.fromConnection, step.fromPath);
    touch(step.toConnection, step.toPath);
  }
  for (const [connection, folders] of touched) await (await openRepository(connection)).flush([...folders]);
  written("files moved");
}

/** Says on a plan why it is not getting on; `stop` also stops it, so that a person goes on with it when what is wrong was put right. */
export async function pausePlan(planId: string, why: string, stop: boolean): Promise<void> {
  await db()
    .update(movePlan)
    .set({ why, ...(stop ? { state: "stopped" } : {}) })
    .where(and(eq(movePlan.id, planId), sql`state in ('running','undoing')`));
}
