import { and, eq, type SQL, sql } from "drizzle-orm";
import { pathFolder } from "#core/filing-plan/legal-name.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import { now } from "../ports/clock.ts";
import type { Repository } from "../ports/repository.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { pointAfterMoves } from "../repository/carry-pointers.ts";
import { openRepository } from "./open-repository.ts";
import { isMoved, isPlanned, parentOf, type Step, written } from "./plan-step.ts";
import { parentPaths } from "./lock-settled-folder.ts";
import { movePlan } from "./tables.ts";

/** Empty folders that are removed side by side. */
const AT_ONCE = 8;
/** A plan can be undone for so long, days. */
export const UNDO_DAYS = 30;

/** Folders that steps left behind and that may be empty now, by connection. */
export class LeftBehind {
  readonly byConnection = new Map<string, Set<string>>();

  add(step: Pick<Step, "kind" | "fromConnection" | "fromPath">): void {
    this.enter(step.fromConnection, parentOf(step.fromPath));
    // What was a record's own folder until now may hold nothing any more.
    if (step.kind === "own") this.enter(step.fromConnection, step.fromPath);
  }

  enter(connection: string, path: string): void {
    const paths = this.byConnection.get(connection);
    if (paths) paths.add(path);
    else this.byConnection.set(connection, new Set([path]));
  }
}

/**
 * Nothing is left to do the way it was going: empty folders that were left behind go, and the plan says that it is done. Whoever stopped or turned it
 * since then is obeyed: it ends when they let it go on. `left` is what its steps left behind; without it, it is worked out.
 */
export async function endPlan(planId: string, isBack: boolean, left: LeftBehind | null = null): Promise<void> {
  const plan = (await db().select().from(movePlan).where(eq(movePlan.id, planId)))[0];
  if (plan?.state !== (isBack ? "undoing" : "running")) return;
  await clearEmpty(planId, left ?? (await leftBehind(planId, isBack)));
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
    if (done[0]) await pointAfterMoves(tx, planId);
    if (done[0])
      await writeLines(tx, [
        { verb: "movePlanEnded", who: PROGRAM, details: { label: plan.label, done: String(done[0].done), steps: String(done[0].steps) } },
      ]);
  });
}

/** The path above a path, empty at the top; SQL. A pattern that is anchored at the end is tried at every place of the path. */
const parentSql = (path: SQL): SQL =>
  sql`left(${path}, greatest(0, length(${path}) - case strpos(${path}, '/') when 0 then length(${path}) else strpos(reverse(${path}), '/') end))`;

/** What the steps that were carried out left behind, out of the steps. */
async function leftBehind(planId: string, isBack: boolean): Promise<LeftBehind> {
  const [connection, path] = isBack ? [sql`s.to_connection`, sql`s.to_path`] : [sql`s.from_connection`, sql`s.from_path`];
  const wasCarried = isBack ? isPlanned(planId, sql`s`) : isMoved(planId, sql`s`);
  const { rows } = await db().execute<{ connection: string; path: string }>(
    sql`select distinct ${connection} as connection, ${parentSql(path)} as path from move_step s where s.plan_id = ${planId} and ${wasCarried}
      union select ${connection}, ${path} from move_step s where s.plan_id = ${planId} and s.kind = 'own' and ${wasCarried}`,
  );
  const left = new LeftBehind();
  for (const row of rows) left.enter(row.connection, row.path);
  return left;
}

/** Removes rows of folders that nothing stands in any more, and the folders themselves and those above them where they are empty. */
async function clearEmpty(planId: string, left: LeftBehind): Promise<void> {
  await db().execute(sql`delete from folder f where f.kind = 'within'
    and f.id in (select folder_id from record_folder where record_id in (select record_id from move_step where plan_id = ${planId} and kind <> 'folder'))
    and not exists (select 1 from placement p where p.folder_id = f.id) and not exists (select 1 from pointer p where p.folder_id = f.id)
    and not exists (select 1 from finding x where x.folder_id = f.id)`);
  const fold = pathFolder();
  for (const [connection, paths] of left.byConnection) {
    const all = new Set([...paths].flatMap((path) => (path === "" ? [] : parentPaths(path))));
    const known = await db().execute<{ path: string }>(
      sql`select path from folder where connection = ${connection} and path_folded = any(${textArray([...all].map(fold))}::text[])`,
    );
    for (const { path } of known.rows) all.delete(path);
    await removeEmpty(await openRepository(connection), all);
  }
}

/**
 * Removes those of these folders in which nothing is. From the top, since where one went as a whole nothing beneath it has to be asked for; then from
 * the bottom those that are still there: one that was emptied makes the one above it empty.
 */
async function removeEmpty(repository: Repository, paths: ReadonlySet<string>): Promise<void> {
  const byDepth: string[][] = [];
  for (const path of paths) (byDepth[path.split("/").length] ??= []).push(path);
  const gone = new Set<string>();
  const kept: string[][] = [];
  for (const [depth, level] of byDepth.entries()) {
    if (!level) continue;
    await sideBySide(level, AT_ONCE, async (path) => {
      if (gone.has(parentOf(path)) || (await repository.removeEmptyFolder(path)) === "gone") gone.add(path);
      else (kept[depth] ??= []).push(path);
    });
  }
  // The lowest were asked just now.
  for (const level of kept.slice(0, byDepth.length - 1).reverse())
    if (level) await sideBySide(level, AT_ONCE, (path) => repository.removeEmptyFolder(path));
}
