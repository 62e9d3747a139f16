import { eq, sql } from "drizzle-orm";
import { db, type Tx } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { isStepUnderWay, type Step } from "./plan-step.ts";
import { movePlan, stepsUnderWay } from "./tables.ts";

/** Steps that are carried out together: all of one wave, or what was left under way. */
export interface Chunk {
  /** "stopped": the plan is not to go on. "turned": it goes the other way now, and what is under way has to be written down first. */
  readonly kind: "steps" | "stopped" | "turned";
  readonly steps: readonly Step[];
  readonly wave: number | null;
  readonly isBack: boolean;
  /** The last of them, by wave and position. */
  readonly last: { readonly wave: number; readonly position: number } | null;
  /** Where the folders of its steps stand, by id. */
  readonly folders: ReadonlyMap<number, string>;
}

/** The next steps, marked as under way. At the beginning (`before` null) steps that were under way when a process died come first. */
export async function takeChunk(planId: string, before: Chunk | null, size: number): Promise<Chunk> {
  for (;;) {
    const chunk = await takeNow(planId, before, size);
    if (chunk) return chunk;
  }
}

/** Thrown out of a transaction when the plan was stopped, begun or turned while steps of it were taken. */
const otherwise = new Error("the plan goes another way");

/** Null when the plan goes another way meanwhile: nothing was taken then. */
function takeNow(planId: string, before: Chunk | null, size: number): Promise<Chunk | null> {
  return db()
    .transaction(async (tx) => {
      const found = (await tx.select().from(movePlan).where(eq(movePlan.id, planId)))[0];
      const chunk = await takeIn(tx, planId, found?.state, before, size);
      // The plan's row last, as when outcomes are written down: whoever stops it waits for this, and no two wait for each other.
      const now = (await tx.select({ state: movePlan.state }).from(movePlan).where(eq(movePlan.id, planId)).for("update"))[0];
      if (now?.state !== found?.state) throw otherwise;
      return chunk;
    })
    .catch((error: unknown) => {
      if (error === otherwise) return null;
      throw error;
    });
}

async function takeIn(tx: Tx, planId: string, state: string | undefined, before: Chunk | null, size: number): Promise<Chunk> {
  const isBack = state === "undoing";
  const chunkOf = (steps: readonly Step[], wave: number | null, folders: Chunk["folders"]): Chunk => ({
    kind: "steps",
    steps: steps.map((s) => (s.isBack ? turned(s) : s)),
    wave,
    isBack,
    last: wave === null ? null : { wave, position: steps.at(-1)?.position ?? 0 },
    folders,
  });
  const nothing = { steps: [], wave: null, last: null, isBack, folders: new Map<number, string>() };
  const isStopped = state !== "running" && !isBack;
  if (before !== null && (isStopped || before.isBack !== isBack)) return { ...nothing, kind: isStopped ? "stopped" : "turned" };
  if (before === null) {
    // Also of a plan that was stopped meanwhile: nothing is left standing between two places.
    const left = await takeLeft(tx, planId, size);
    if (left.length > 0) return chunkOf(left, null, await holdFolders(tx, left));
    if (isStopped) return { ...nothing, kind: "stopped" };
  }
  const steps = await takeSteps(tx, planId, isBack, before?.last ?? null, size);
  if (steps.length === 0) return { ...nothing, kind: "steps" };
  const held = await holdFolders(tx, steps);
  const files = steps.flatMap((s) => (s.kind === "file" && s.documentId !== null ? [s.documentId] : []));
  if (files.length > 0)
    await tx.execute(
      sql`update placement set state = 'moving' where document_id = any(${idArray(files)}::bigint[]) and state = 'placed' and taken_back_by is null`,
    );
  return chunkOf(steps, steps[0]?.wave ?? null, held);
}

const stepColumns = sql`s.position, s.wave, s.kind, s.is_aside, s.record_id, s.document_id, s.folder_id, s.from_connection, s.from_path, s.to_connection, s.to_path`;

/** Steps that were under way when a process died, of one wave: the next one may have been begun on while that was being written down. */
async function takeLeft(tx: Tx, planId: string, size: number): Promise<Step[]> {
  const { rows } = await tx.execute<StepRow & { is_back: boolean }>(sql`with left_over as (
      select ${stepColumns}, u.is_back from steps_under_way u join move_step s on s.plan_id = u.plan_id and s.wave = u.wave and s.position between u.first and u.last
      where u.plan_id = ${planId} and s.state = case when u.is_back then 'moved' else 'planned' end)
    select * from left_over where wave = (select case when bool_or(is_back) then max(wave) else min(wave) end from left_over) order by position limit ${size}`);
  return rows.map((r) => stepFrom(r, r.is_back));
}

/** The first steps of the next wave that are still to be done, forwards or back; those after the last that was taken first, since all before it mostly are. */
async function takeSteps(tx: Tx, planId: string, isBack: boolean, last: Chunk["last"], size: number): Promise<Step[]> {
  const left = sql`s.plan_id = ${planId} and s.state = ${isBack ? "moved" : "planned"}`;
  const order = isBack ? sql`s.wave desc, s.position desc` : sql`s.wave, s.position`;
  // Without a last one those that were taken before stand among them until they are written down.
  const after =
    last === null
      ? sql`not ${isStepUnderWay(sql`s`)}`
      : isBack
        ? sql`(s.wave, s.position) < (${last.wave}, ${last.position})`
        : sql`(s.wave, s.position) > (${last.wave}, ${last.position})`;
  const { rows } =
    await tx.execute<StepRow>(sql`with first as (select s.wave from move_step s where ${left} and ${after} order by ${order} limit 1)
    select ${stepColumns} from move_step s where ${left} and ${after} and s.wave = (select wave from first) order by ${order} limit ${size}`);
  if (rows.length === 0 && last !== null) return takeSteps(tx, planId, isBack, null, size);
  const ends = [rows[0], rows.at(-1)].flatMap((r) => (r ? [r.position] : []));
  const wave = rows[0]?.wave;
  const folders = rows.flatMap((r) => (r.kind === "folder" && r.folder_id !== null ? [r.folder_id] : []));
  // Said before the folders are held: whoever holds one puts something into it, and whoever comes to hold it later reads what was said.
  if (wave !== undefined)
    await tx.insert(stepsUnderWay).values({ planId, wave, first: Math.min(...ends), last: Math.max(...ends), isBack, folders });
  return rows.map((r) => stepFrom(r, isBack));
}

type StepRow = {
  readonly position: number;
  readonly wave: number;
  readonly kind: string;
  readonly is_aside: boolean;
  readonly record_id: number | null;
  readonly document_id: number | null;
  readonly folder_id: number | null;
  readonly from_connection: string;
  readonly from_path: string;
  readonly to_connection: string;
  readonly to_path: string;
};

function stepFrom(r: StepRow, isBack: boolean): Step {
  return {
    position: r.position,
    wave: r.wave,
    kind: r.kind,
    isAside: r.is_aside,
    recordId: r.record_id,
    documentId: r.document_id,
    folderId: r.folder_id,
    fromConnection: r.from_connection,
    fromPath: r.from_path,
    toConnection: r.to_connection,
    toPath: r.to_path,
    isBack,
  };
}

/**
 * Holds the folders of steps and answers where each stands: whoever is putting something into one of these, or into one beneath, is waited for here;
 * whoever wants to after this waits for us.
 */
export async function holdFolders(tx: Tx, steps: readonly Step[]): Promise<ReadonlyMap<number, string>> {
  const ids = steps.flatMap((s) => (s.kind === "folder" && s.folderId !== null ? [s.folderId] : []));
  if (ids.length === 0) return new Map();
  const { rows } = await tx.execute<{ id: number; path: string }>(
    sql`select id, path from folder where id = any(${idArray(ids)}::bigint[]) for no key update`,
  );
  return new Map(rows.map((r) => [r.id, r.path]));
}

/** A step the other way round. */
function turned(step: Step): Step {
  return {
    ...step,
    fromConnection: step.toConnection,
    fromPath: step.toPath,
    toConnection: step.fromConnection,
    toPath: step.fromPath,
  };
}
