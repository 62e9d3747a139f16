import { and, eq, sql, type SQL } from "drizzle-orm";
import { foldName, foldPath } from "#core/filing-plan/legal-name.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { db, type Tx } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { isOutage, pgCode } from "../db/describe-error.ts";
import { localFile } from "../documents/local-file.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import type { SeenFile } from "../ports/repository.ts";
import { systemCode } from "../ports/system-code.ts";
import { type NewLine, PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { openRepository } from "./open-repository.ts";
import { pathsAbove } from "./still-folder.ts";
import { folder, movePlan, moveStep, placement } from "./tables.ts";

/** Steps carried out between two looks at whether to stop. */
const CHUNK = 500;
/** Steps of one chunk that are under way side by side. */
const AT_ONCE = 8;
/** One job goes on for so long, then gives way to others and comes back, ms. */
const TURN_MS = 20_000;
/** A plan can be undone for so long, days. */
export const UNDO_DAYS = 30;

type Step = typeof moveStep.$inferSelect;
type Outcome = {
  readonly step: Step;
  readonly kind: "moved" | "failed" | "clash";
  readonly why: string | null;
  readonly seen?: SeenFile | null;
};

/** Where a test stops a plan as if the process had been killed: called after each thing that is written. Not set outside tests. */
export const stops: { after: ((what: string) => void) | null } = { after: null };
const written = (what: string): void => stops.after?.(what);

/**
 * Carries a plan on, forwards or back, chunk by chunk: writes down what it is about to do, does it in the repository, writes down what came of it.
 * Killed anywhere and begun again it ends the same (promise 4): a step that was under way is looked at, and either it happened or it is done now.
 * Answers whether there is more to do.
 */
export async function carryPlan(planId: string, turnMs = TURN_MS): Promise<boolean> {
  const until = Date.now() + turnMs;
  for (;;) {
    const chunk = await takeChunk(planId);
    if (chunk === null) return false;
    if (chunk.length === 0) {
      await endPlan(planId);
      return false;
    }
    written("chunk taken");
    const outcomes = await sideBySide(chunk, (step) => carryStep(step));
    for (const connection of new Set(chunk.map((s) => s.toConnection))) await (await openRepository(connection)).flush();
    written("files moved");
    await keepOutcomes(planId, outcomes);
    written("outcomes kept");
    if (Date.now() > until) {
      await addJob(db(), "carryPlan", { plan: planId }, { key: `carry:${planId}`, queue: "moves" });
      return true;
    }
  }
}

/** The next steps, marked as under way; null when the plan is not to go on. Steps that were under way when a process died come first. */
async function takeChunk(planId: string): Promise<readonly Step[] | null> {
  return db().transaction(async (tx) => {
    const plan = (await tx.select().from(movePlan).where(eq(movePlan.id, planId)).for("update"))[0];
    if (!plan) return null;
    const isBack = plan.state === "undoing";
    if (plan.state !== "running" && !isBack) {
      // Stopped: what was under way when a process died is still brought to an end, so that nothing stands between two places.
      const left = await stepsWhere(tx, sql`plan_id = ${planId} and state = 'moving'`, sql`position`, CHUNK);
      return left.length > 0 ? left.map((s) => (s.why === "back" ? turned(s) : s)) : null;
    }
    const underWay = await stepsWhere(tx, sql`plan_id = ${planId} and state = 'moving'`, sql`position`, CHUNK);
    if (underWay.length > 0) return underWay.map((s) => (s.why === "back" ? turned(s) : s));
    const wanted = isBack ? "moved" : "planned";
    const next = await tx.execute<{ wave: number }>(
      isBack
        ? sql`select max(wave) as wave from move_step where plan_id = ${planId} and state = 'moved' having max(wave) is not null`
        : sql`select min(wave) as wave from move_step where plan_id = ${planId} and state = 'planned' having min(wave) is not null`,
    );
    const wave = next.rows[0]?.wave;
    if (wave === undefined) return [];
    const steps = await stepsWhere(
      tx,
      sql`plan_id = ${planId} and state = ${wanted} and wave = ${wave}`,
      isBack ? sql`position desc` : sql`position`,
      CHUNK,
    );
    const positions = `{${steps.map((s) => s.position).join(",")}}`;
    await tx.execute(
      sql`update move_step set state = 'moving', why = ${isBack ? "back" : null} where plan_id = ${planId} and position = any(${positions}::int[])`,
    );
    const folders = steps.filter((s) => s.kind === "folder").map((s) => s.folderId);
    // Whoever is putting something into one of these, or into one beneath, is waited for here; whoever wants to after this waits for us.
    if (folders.length > 0) await tx.execute(sql`update folder set is_moving = true where id = any(${`{${folders.join(",")}}`}::bigint[])`);
    const files = steps.filter((s) => s.kind === "file").map((s) => s.documentId);
    if (files.length > 0)
      await tx.execute(
        sql`update placement set state = 'moving' where document_id = any(${`{${files.join(",")}}`}::bigint[]) and state = 'placed' and taken_back_by is null`,
      );
    return steps.map((s) => (isBack ? turned(s) : s));
  });
}

async function stepsWhere(tx: Tx, where: SQL, order: SQL, limit: number): Promise<readonly Step[]> {
  return tx.select().from(moveStep).where(where).orderBy(order).limit(limit);
}

/** A step the other way round. */
function turned(step: Step): Step {
  return {
    ...step,
    fromConnection: step.toConnection,
    fromPath: step.toPath,
    toConnection: step.fromConnection,
    toPath: step.fromPath,
    why: "back",
  };
}

/** Does one step in the repository. What is expected to go wrong is an outcome; while the repository is away it throws, and the step stays under way. */
async function carryStep(step: Step): Promise<Outcome> {
  const failed = (kind: "failed" | "clash", why: string): Outcome => ({ step, kind, why });
  try {
    if (step.kind === "own") return { step, kind: "moved", why: null };
    if (step.kind === "folder") return await carryFolder(step);
    return await carryFile(step);
  } catch (error) {
    const why = systemCode(error);
    if (why === "repository-unreachable" || isOutage(error)) throw error;
    return failed("failed", why ?? "unknown");
  }
}

async function carryFolder(step: Step): Promise<Outcome> {
  const row = (
    await db()
      .select({ path: folder.path })
      .from(folder)
      .where(eq(folder.id, step.folderId ?? 0))
  )[0];
  // Carried out already, and only not written down yet: the row is the last thing that changes.
  if (row?.path === step.toPath) return { step, kind: "moved", why: null };
  if (row?.path !== step.fromPath) return { step, kind: "failed", why: "changed-since" };
  const repository = await openRepository(step.fromConnection);
  const outcome = await repository.moveFolder(step.fromPath, step.toPath);
  if (outcome === "taken") return { step, kind: "clash", why: "taken" };
  // A folder that nobody has put anything into yet is only a name.
  return { step, kind: "moved", why: null };
}

async function carryFile(step: Step): Promise<Outcome> {
  const found = (
    await db()
      .select()
      .from(placement)
      .where(eq(placement.documentId, step.documentId ?? 0))
  )[0];
  if (!found || found.takenBackBy !== null) return { step, kind: "failed", why: "unfiled" };
  if (found.state === "adrift") return { step, kind: "clash", why: "adrift" };
  if (found.state === "waiting" || found.state === "failed") return carryWaiting(step);
  const from = await openRepository(step.fromConnection);
  const isSame = step.fromConnection === step.toConnection;
  const sha256 = found.sha256 === null ? null : parseSha256(found.sha256);
  if (isSame) {
    const there = await from.look(step.fromPath);
    if (there && isOther(there, found)) return { step, kind: "clash", why: "changed" };
    const outcome = await from.move(step.fromPath, step.toPath);
    if (outcome === "taken") return { step, kind: "clash", why: "taken" };
    if (outcome === "not-there") return { step, kind: "clash", why: "gone" };
    return { step, kind: "moved", why: null, seen: await from.look(step.toPath) };
  }
  if (sha256 === null) return { step, kind: "failed", why: "not-proven" };
  const there = await from.hashOf(step.fromPath);
  if (there !== null && there !== sha256) return { step, kind: "clash", why: "changed" };
  const to = await openRepository(step.toConnection);
  const put = await to.put(step.toPath, await localFile(sha256), sha256);
  if (put.kind === "taken") return { step, kind: "clash", why: "taken" };
  // The old one goes only after the new one was read back (promise 3).
  if ((await to.hashOf(step.toPath)) !== sha256) return { step, kind: "failed", why: "not-proven" };
  await from.remove(step.fromPath, sha256);
  return { step, kind: "moved", why: null, seen: await to.look(step.toPath) };
}

/** A document that is still to be placed: it is placed at its new name. An earlier version of it that stands under the old one goes along, and gives way there. */
async function carryWaiting(step: Step): Promise<Outcome> {
  const from = await openRepository(step.fromConnection);
  const there = await from.hashOf(step.fromPath);
  const isOurs =
    there !== null &&
    (await db().execute(sql`select 1 from document_version where document_id = ${step.documentId} and sha256 = ${there}`)).rows.length > 0;
  if (isOurs && step.fromConnection === step.toConnection) {
    if ((await from.move(step.fromPath, step.toPath)) === "taken") return { step, kind: "clash", why: "taken" };
  } else if (isOurs && there !== null) await from.takeBack(step.fromPath, there);
  return { step, kind: "moved", why: null, seen: null };
}

function isOther(there: SeenFile, known: typeof placement.$inferSelect): boolean {
  if (known.seenBytes === null) return false;
  return there.sizeBytes !== known.seenBytes || (known.seenModifiedMs !== null && there.modifiedMs !== known.seenModifiedMs);
}

/** Writes down what came of a chunk: where folders and files are now, the steps, the plan's counts, the timelines. One transaction. */
async function keepOutcomes(planId: string, outcomes: readonly Outcome[]): Promise<void> {
  try {
    await db().transaction((tx) => keepIn(tx, planId, outcomes));
  } catch (error) {
    // One that cannot be entered (a place was given out meanwhile) must not hold up the others: they are entered one by one.
    if (pgCode(error) !== "23505" || outcomes.length === 1) {
      if (pgCode(error) !== "23505") throw error;
      await db().transaction((tx) =>
        keepIn(
          tx,
          planId,
          outcomes.map((o) => ({ ...o, kind: "clash" as const, why: "taken" })),
        ),
      );
      return;
    }
    for (const outcome of outcomes) await keepOutcomes(planId, [outcome]);
  }
}

async function keepIn(tx: Tx, planId: string, outcomes: readonly Outcome[]): Promise<void> {
  const isBack = outcomes[0]?.step.why === "back";
  const moved = outcomes.filter((o) => o.kind === "moved");
  const folders = moved.filter((o) => o.step.kind === "folder").map((o) => o.step);
  const allFolders = outcomes.filter((o) => o.step.kind === "folder").map((o) => o.step.folderId);
  if (allFolders.length > 0) {
    const ids = `{${allFolders.join(",")}}`;
    // Held first, so that the next statement sees every folder that was made beneath one of them until now.
    await tx.execute(sql`select 1 from folder where id = any(${ids}::bigint[]) order by id for update`);
    const rows = folders.map((s) => ({
      id: s.folderId,
      connection: s.fromConnection,
      was: s.fromPath,
      is: s.toPath,
      was_folded: foldPath(s.fromPath.split("/")),
      is_folded: foldPath(s.toPath.split("/")),
    }));
    if (rows.length > 0) {
      const given = sql`jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as x(id bigint, connection text, was text, "is" text, was_folded text, is_folded text)`;
      await tx.execute(sql`update folder f set path = x.is || substr(f.path, length(x.was) + 1), path_folded = x.is_folded || substr(f.path_folded, length(x.was_folded) + 1)
        from ${given} where f.connection = x.connection and f.path_folded >= x.was_folded || '/' and f.path_folded < x.was_folded || '0'`);
      await tx.execute(sql`update folder f set path = x.is, path_folded = x.is_folded from ${given} where f.id = x.id and f.path = x.was`);
    }
    await tx.execute(sql`update folder set is_moving = false where id = any(${ids}::bigint[])`);
  }
  const lines: NewLine[] = [];
  for (const { step } of moved.filter((o) => o.step.kind === "own")) await becomeOwn(tx, step);
  const files = moved.filter((o) => o.step.kind === "file");
  if (files.length > 0) {
    const targets = new Map<string, number>();
    for (const { step } of files) {
      const at = `${step.toConnection}/${parentOf(step.toPath)}`;
      if (!targets.has(at)) targets.set(at, await ensureFolder(tx, step.toConnection, parentOf(step.toPath), step.recordId));
    }
    const rows = files.map(({ step, seen }) => ({
      id: step.documentId,
      folder: targets.get(`${step.toConnection}/${parentOf(step.toPath)}`),
      name: nameOf(step.toPath),
      folded: foldName(nameOf(step.toPath)),
      bytes: seen?.sizeBytes ?? null,
      modified: seen?.modifiedMs ?? null,
      mark: seen?.mark ?? null,
    }));
    await tx.execute(sql`update placement p set folder_id = x.folder, name = x.name, name_folded = x.folded,
        state = case when p.state = 'moving' then 'placed' else p.state end,
        seen_bytes = coalesce(x.bytes, p.seen_bytes), seen_modified_ms = coalesce(x.modified, p.seen_modified_ms), seen_mark = coalesce(x.mark, p.seen_mark)
      from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as x(id bigint, folder bigint, name text, folded text, bytes bigint, modified bigint, mark text)
      where p.document_id = x.id`);
  }
  const left = outcomes.filter((o) => o.kind !== "moved" && o.step.kind === "file").map((o) => o.step.documentId);
  if (left.length > 0)
    await tx.execute(
      sql`update placement set state = 'placed' where document_id = any(${`{${left.join(",")}}`}::bigint[]) and state = 'moving' and taken_back_by is null`,
    );
  // A listing that was right before says nothing about a folder that something left or came into.
  await tx.execute(sql`update folder set digest = null where digest is not null and id in (
    select folder_id from placement where document_id = any(${`{${outcomes.flatMap((o) => (o.step.documentId === null ? [] : [o.step.documentId])).join(",")}}`}::bigint[])
    union all select unnest(${`{${outcomes.flatMap((o) => (o.step.folderId === null ? [] : [o.step.folderId])).join(",")}}`}::bigint[]))`);
  const rows = outcomes.map((o) => ({
    position: o.step.position,
    // What could not be brought back stays where it was brought.
    state: o.kind === "moved" ? (isBack ? "planned" : "moved") : isBack ? "moved" : o.kind,
    why: o.kind === "moved" ? null : o.why,
    stuck: isBack && o.kind !== "moved",
  }));
  await tx.execute(sql`update move_step s set state = case when x.stuck then 'clash' else x.state end, why = x.why
    from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as x(position int, state text, why text, stuck boolean) where s.plan_id = ${planId} and s.position = x.position and s.state = 'moving'`);
  await tx.execute(sql`update move_plan set done = (select count(*) from move_step where plan_id = ${planId} and state = 'moved'),
    failed = (select count(*) from move_step where plan_id = ${planId} and state = 'failed'), clashes = (select count(*) from move_step where plan_id = ${planId} and state = 'clash')
    where id = ${planId}`);
  for (const { step } of moved) {
    if (step.isAside) continue;
    if (step.kind === "file" && step.documentId !== null)
      lines.push({ verb: "moved", who: PROGRAM, documentId: step.documentId, details: { path: step.toPath, plan: planId } });
    else if (step.kind === "folder" && step.recordId !== null)
      lines.push({
        verb: "folderMoved",
        who: PROGRAM,
        recordId: step.recordId,
        details: { from: step.fromPath, to: step.toPath, plan: planId },
      });
  }
  await writeLines(tx, lines);
}

/** Another folder becomes the record's own; the one it had stays as one within its papers until it is empty. */
async function becomeOwn(tx: Tx, step: Step): Promise<void> {
  if (step.recordId === null) return;
  const id = await ensureFolder(tx, step.toConnection, step.toPath, step.recordId);
  await tx
    .update(folder)
    .set({ kind: "within" })
    .where(and(eq(folder.recordId, step.recordId), eq(folder.kind, "record")));
  await tx.update(folder).set({ kind: "record" }).where(eq(folder.id, id));
}

/** The row of a folder that files go to; entered when there is none. Throws a unique violation when it is another record's. */
async function ensureFolder(tx: Tx, connection: string, path: string, recordId: number | null): Promise<number> {
  const pathFolded = foldPath(path.split("/"));
  const there = (
    await tx
      .select({ id: folder.id, recordId: folder.recordId })
      .from(folder)
      .where(and(eq(folder.connection, connection), eq(folder.pathFolded, pathFolded)))
  )[0];
  if (there) return there.id;
  const made = await tx
    .insert(folder)
    .values({ recordId, connection, path, pathFolded, kind: "within", ruleStamp: "", madeAt: now() })
    .returning({ id: folder.id });
  const id = made[0]?.id;
  if (id === undefined) throw new Error("no folder");
  return id;
}

/** Nothing is left to do: empty folders that were left behind go, and the plan says that it is done. */
async function endPlan(planId: string): Promise<void> {
  const plan = (await db().select().from(movePlan).where(eq(movePlan.id, planId)))[0];
  if (!plan) return;
  const isBack = plan.state === "undoing";
  await clearEmpty(planId, isBack);
  written("empty folders cleared");
  await db().transaction(async (tx) => {
    const done = await tx
      .update(movePlan)
      .set(
        isBack
          ? { state: "undone", endedAt: now(), undoUntil: null }
          : { state: "done", endedAt: now(), undoUntil: new Date(now().getTime() + UNDO_DAYS * 86_400_000) },
      )
      .where(and(eq(movePlan.id, planId), eq(movePlan.state, plan.state)))
      .returning({ done: movePlan.done, steps: movePlan.steps });
    if (done[0])
      await writeLines(tx, [
        { verb: "movePlanEnded", who: PROGRAM, details: { label: plan.label, done: String(done[0].done), steps: String(done[0].steps) } },
      ]);
  });
}

/** Removes rows of folders that nothing stands in any more, and the folders themselves and those above them where they are empty. */
async function clearEmpty(planId: string, isBack: boolean): Promise<void> {
  await db()
    .execute(sql`delete from folder f where f.kind = 'within' and f.record_id in (select record_id from move_step where plan_id = ${planId} and kind <> 'folder')
    and not exists (select 1 from placement p where p.folder_id = f.id) and not exists (select 1 from pointer p where p.folder_id = f.id)
    and not exists (select 1 from finding x where x.folder_id = f.id)`);
  const left = await db().execute<{ connection: string; path: string }>(
    isBack
      ? sql`select distinct to_connection as connection, regexp_replace(to_path, '/?[^/]*$', '') as path from move_step where plan_id = ${planId} and state = 'planned'
          union select to_connection, to_path from move_step where plan_id = ${planId} and state = 'planned' and kind = 'own'`
      : sql`select distinct from_connection as connection, regexp_replace(from_path, '/?[^/]*$', '') as path from move_step where plan_id = ${planId} and state = 'moved'
          union select from_connection, from_path from move_step where plan_id = ${planId} and state = 'moved' and kind = 'own'`,
  );
  const paths = new Map<string, Set<string>>();
  for (const { connection, path } of left.rows)
    if (path !== "") paths.set(connection, new Set([...(paths.get(connection) ?? []), ...pathsAbove(path)]));
  for (const [connection, all] of paths) {
    const known = await db().execute<{ path: string }>(
      sql`select path from folder where connection = ${connection} and path = any(${textArray([...all])}::text[])`,
    );
    for (const { path } of known.rows) all.delete(path);
    const repository = await openRepository(connection);
    // The deepest first: one that was emptied makes the one above it empty.
    for (const path of [...all].sort((a, b) => b.length - a.length)) await repository.removeEmptyFolder(path);
  }
}

async function sideBySide(steps: readonly Step[], act: (step: Step) => Promise<Outcome>): Promise<readonly Outcome[]> {
  const outcomes: Outcome[] = [];
  let next = 0;
  await Promise.all(
    Array.from({ length: Math.min(AT_ONCE, steps.length) }, async () => {
      for (let i = next++; i < steps.length; i = next++) {
        const step = steps[i];
        if (step) {
          outcomes.push(await act(step));
          written("one step");
        }
      }
    }),
  );
  return outcomes;
}

const parentOf = (path: string): string => path.split("/").slice(0, -1).join("/");
const nameOf = (path: string): string => path.split("/").at(-1) ?? path;

/** Says on a plan why it is not getting on; `stop` also stops it, so that a person goes on with it when what is wrong was put right. */
export async function pausePlan(planId: string, why: string, stop: boolean): Promise<void> {
  await db()
    .update(movePlan)
    .set({ why, ...(stop ? { state: "stopped" } : {}) })
    .where(and(eq(movePlan.id, planId), sql`state in ('running','undoing')`));
}
