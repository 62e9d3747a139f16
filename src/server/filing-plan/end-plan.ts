import { and, eq, type SQL, sql } from "drizzle-orm";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import { now } from "../ports/clock.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { pointAfterMoves } from "../repository/carry-pointers.ts";
import { openRepository } from "./open-repository.ts";
import { written } from "./plan-step.ts";
import { pathsAbove } from "./still-folder.ts";
import { movePlan } from "./tables.ts";

/** Empty folders that are removed side by side. */
const AT_ONCE = 8;
/** A plan can be undone for so long, days. */
export const UNDO_DAYS = 30;

/** Nothing is left to do: empty folders that were left behind go, and the plan says that it is done. */
export async function endPlan(planId: string): Promise<void> {
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

/** Removes rows of folders that nothing stands in any more, and the folders themselves and those above them where they are empty. */
async function clearEmpty(planId: string, isBack: boolean): Promise<void> {
  await db()
    .execute(sql`delete from folder f where f.kind = 'within' and f.record_id in (select record_id from move_step where plan_id = ${planId} and kind <> 'folder')
    and not exists (select 1 from placement p where p.folder_id = f.id) and not exists (select 1 from pointer p where p.folder_id = f.id)
    and not exists (select 1 from finding x where x.folder_id = f.id)`);
  const left = await db().execute<{ connection: string; path: string }>(
    isBack
      ? sql`select distinct to_connection as connection, ${parentSql(sql`to_path`)} as path from move_step where plan_id = ${planId} and state = 'planned'
          union select to_connection, to_path from move_step where plan_id = ${planId} and state = 'planned' and kind = 'own'`
      : sql`select distinct from_connection as connection, ${parentSql(sql`from_path`)} as path from move_step where plan_id = ${planId} and state = 'moved'
          union select from_connection, from_path from move_step where plan_id = ${planId} and state = 'moved' and kind = 'own'`,
  );
  const paths = new Map<string, Set<string>>();
  for (const { connection, path } of left.rows) {
    const all = paths.get(connection) ?? new Set();
    paths.set(connection, all);
    if (path !== "") for (const above of pathsAbove(path)) all.add(above);
  }
  for (const [connection, all] of paths) {
    const known = await db().execute<{ path: string }>(
      sql`select path from folder where connection = ${connection} and path = any(${textArray([...all])}::text[])`,
    );
    for (const { path } of known.rows) all.delete(path);
    const repository = await openRepository(connection);
    // The deepest first: one that was emptied makes the one above it empty.
    const depth = (path: string): number => path.split("/").length;
    const deepest = Math.max(0, ...[...all].map(depth));
    for (let level = deepest; level > 0; level--)
      await sideBySide(
        [...all].filter((path) => depth(path) === level),
        AT_ONCE,
        (path) => repository.removeEmptyFolder(path),
      );
  }
}
