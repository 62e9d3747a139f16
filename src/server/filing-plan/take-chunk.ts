import { eq, sql } from "drizzle-orm";
import { db, type Tx } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { highestPosition, isAsTaken, isMoved, isPlanned, isStepUnderWay, lowest, positionsOf, type Step } from "./plan-step.ts";
import { movePlan } from "./tables.ts";

/** Steps that are carried out together: all of one wave, or what was left under way. */
export interface Chunk {
  /** "stopped": the plan is not to go on. "turned": it goes the other way now, and what is under way has to be written down first. */
  readonly kind: "steps" | "stopped" | "turned";
  readonly steps: readonly Step[];
  readonly wave: number | null;
  readonly isBack: boolean;
  /** The last of them, by wave and position. */
  readonly last: { readonly wave: number; readonly position: number } | null;
  /** Nothing of the plan was carried out before these. */
  readonly isBeginning: boolean;
  /** Folders that do not stand where their step leaves from, by id, with their paths; null where there is none any more. */
  readonly elsewhere: ReadonlyMap<number, string | null>;
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

/** A chunk of which it is not known yet where its folders stand. */
type Taken = Omit<Chunk, "elsewhere">;

/** Null when the plan goes another way meanwhile: nothing was taken then. */
async function takeNow(planId: string, before: Chunk | null, size: number): Promise<Chunk | null> {
  const taken = await takeTogether(planId, before, size);
  // Held when it can be seen that they are under way: who put something into one without seeing that holds it by now.
  return taken && { ...taken, elsewhere: await holdFolders(planId, taken.steps) };
}

function takeTogether(planId: string, before: Chunk | null, size: number): Promise<Taken | null> {
  return db()
    .transaction(async (tx) => {
      const found = (await tx.select().from(movePlan).where(eq(movePlan.id, planId)))[0];
      const chunk = await takeIn(tx, planId, found, before, size);
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

async function takeIn(
  tx: Tx,
  planId: string,
  plan: typeof movePlan.$inferSelect | undefined,
  before: Chunk | null,
  size: number,
): Promise<Taken> {
  const state = plan?.state;
  const isBack = state === "undoing";
  const chunkOf = (steps: readonly Step[], wave: number | null): Taken => ({
    kind: "steps",
    steps: steps.map((s) => (s.isBack ? turned(s) : s)),
    wave,
    isBack,
    last: wave === null ? null : { wave, position: steps.at(-1)?.position ?? 0 },
    isBeginning: before === null && wave !== null && plan?.moved === "{}",
  });
  const nothing = { steps: [], wave: null, last: null, isBack, isBeginning: false };
  const isStopped = state !== "running" && !isBack;
  if (before !== null && (isStopped || before.isBack !== isBack)) return { ...nothing, kind: isStopped ? "stopped" : "turned" };
  if (before === null) {
    // Also of a plan that was stopped meanwhile: nothing is left standing between two places.
    const left = await takeLeft(tx, planId, size);
    if (left.length > 0) return chunkOf(left, null);
    if (isStopped) return { ...nothing, kind: "stopped" };
  }
  const steps = await takeSteps(tx, planId, isBack, before?.last ?? null, size);
  if (steps.length === 0) return { ...nothing, kind: "steps" };
  const files = steps.flatMap((s) => (s.kind === "file" && s.documentId !== null ? [s.documentId] : []));
  if (files.length > 0)
    await tx.execute(
      sql`update placement set state = 'moving' where document_id = any(${idArray(files)}::bigint[]) and state = 'stored' and taken_back_by is null`,
    );
  return chunkOf(steps, steps[0]?.wave ?? null);
}

/** A step as an array: thousands of them come as one text, which is read in a third of the time. */
const stepArray = sql`json_build_array(s.position, s.wave, s.kind, s.is_aside, s.record_id, s.document_id, s.folder_id, s.from_connection, s.from_path, s.to_connection, s.to_path)`;
type StepArray = readonly [
  position: number,
  wave: number,
  kind: string,
  isAside: boolean,
  recordId: number | null,
  documentId: number | null,
  folderId: number | null,
  fromConnection: string,
  fromPath: string,
  toConnection: string,
  toPath: string,
];

/** Steps that were under way when a process died, of one wave: the next one may have been begun on while that was being written down. */
async function takeLeft(tx: Tx, planId: string, size: number): Promise<Step[]> {
  const { rows } = await tx.execute<{ step: StepArray; is_back: boolean }>(sql`with left_over as (
      select s.wave, s.position, ${stepArray} as step, u.is_back from steps_under_way u
      join move_step s on s.plan_id = u.plan_id and s.wave = u.wave and s.position between u.first and u.last
      where u.plan_id = ${planId} and ${isAsTaken(planId, sql`s`, sql`u`)})
    select step, is_back from left_over where wave = (select case when bool_or(is_back) then max(wave) else min(wave) end from left_over)
      order by position limit ${size}`);
  return rows.map((r) => stepFrom(r.step, r.is_back));
}

/** The first steps of the next wave that are still to be done, forwards or back; those after the last that was taken first, since all before it mostly are. */
async function takeSteps(tx: Tx, planId: string, isBack: boolean, last: Chunk["last"], size: number): Promise<Step[]> {
  const left = sql`s.plan_id = ${planId} and ${isBack ? isMoved(planId, sql`s`) : isPlanned(planId, sql`s`)}`;
  const order = isBack ? sql`s.wave desc, s.position desc` : sql`s.wave, s.position`;
  // Without a last one those that were taken before stand among them until they are written down.
  const after =
    last === null
      ? sql`not ${isStepUnderWay(planId, sql`s`)}`
      : isBack
        ? sql`(s.wave, s.position) < (${last.wave}, ${last.position})`
        : sql`(s.wave, s.position) > (${last.wave}, ${last.position})`;
  const { rows } = await tx.execute<{ steps: readonly StepArray[] | null }>(sql`with first as (
      select s.wave from move_step s where ${left} and ${after} order by ${order} limit 1)
    select json_agg(step) as steps from (select ${stepArray} as step from move_step s
      where ${left} and ${after} and s.wave = (select wave from first) order by ${order} limit ${size}) as taken`);
  const steps = (rows[0]?.steps ?? []).map((s) => stepFrom(s, isBack));
  if (steps.length === 0 && last !== null) return takeSteps(tx, planId, isBack, null, size);
  const wave = steps[0]?.wave;
  const folders = steps.flatMap((s) => (s.kind === "folder" && s.folderId !== null ? [s.folderId] : []));
  // Said before the folders are held: whoever holds one puts something into it, and whoever comes to hold it later reads what was said.
  if (wave !== undefined)
    await tx.execute(sql`insert into steps_under_way (plan_id, wave, first, last, is_back, folders)
      values (${planId}, ${wave}, ${lowest(steps)}, ${highestPosition(steps)}, ${isBack}, ${idArray(folders)}::bigint[])`);
  return steps;
}

function stepFrom(step: StepArray, isBack: boolean): Step {
  const [position, wave, kind, isAside, recordId, documentId, folderId, fromConnection, fromPath, toConnection, toPath] = step;
  return { position, wave, kind, isAside, recordId, documentId, folderId, fromConnection, fromPath, toConnection, toPath, isBack };
}

/**
 * Waits until nobody who did not see that these steps are under way is putting something into one of their folders, or into one beneath; whoever wants to
 * after this sees it. Answers the folders that do not stand where their step leaves from, by id, with their paths; null where there is none any more.
 */
export async function holdFolders(planId: string, steps: readonly Step[]): Promise<Chunk["elsewhere"]> {
  const elsewhere = new Map<number, string | null>();
  for (const isBack of [false, true]) {
    const moving = steps.filter((s) => s.kind === "folder" && s.isBack === isBack);
    if (moving.length === 0) continue;
    const chosen = sql`s.plan_id = ${planId} and s.kind = 'folder' and s.position between ${lowest(moving)} and ${highestPosition(moving)}
      and ${positionsOf(moving)}::int4multirange @> s.position`;
    // A lock on a row is written into it, and thousands of folders are mostly held by nobody.
    if (await isAnyHeld())
      await db().execute(sql`select from folder where id in (select s.folder_id from move_step s where ${chosen}) for no key update`);
    const { rows } = await db().execute<{ id: number; path: string | null }>(
      // One join by the folder's own index, whatever the planner thinks of how many there are: taken for one, two thousand were held against two thousand.
      sql`select s.folder_id as id, f.path from move_step s left join folder f on f.id = s.folder_id
        where ${chosen} and s.folder_id is not null and f.path is distinct from ${isBack ? sql`s.to_path` : sql`s.from_path`}`,
    );
    for (const { id, path } of rows) elsewhere.set(id, path);
  }
  return elsewhere;
}

/** Whether anybody at all holds a row of the folders' table: whoever does has a lock of this mode on the table first, until the transaction ends. */
async function isAnyHeld(): Promise<boolean> {
  const { rows } = await db().execute(sql`select from pg_locks where locktype = 'relation' and relation = 'folder'::regclass
    and database = (select oid from pg_database where datname = current_database()) and mode = 'RowShareLock' limit 1`);
  return rows.length > 0;
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
