import { setTimeout as pause } from "node:timers/promises";
import { and, eq, inArray, type SQL, sql } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { AppError } from "../ports/app-error.ts";
import { folder } from "./tables.ts";

/** How long somebody who wants to put something into a folder waits for it to arrive where it is moving to, ms. */
const WAIT_MS = 15_000;
const LOOK_MS = 40;

/**
 * A folder's row, held so that neither it nor any folder above it moves until the transaction ends. Waits while one is on its way; throws
 * AppError `folder-moving` when that takes too long. Null when there is no such folder.
 */
export async function lockSettledFolder(tx: Tx, id: number): Promise<typeof folder.$inferSelect | null> {
  for (const until = Date.now() + WAIT_MS; ;) {
    const row = (await tx.select().from(folder).where(eq(folder.id, id)))[0];
    if (!row) return null;
    await tx.execute(sql`savepoint still_folder`);
    const held = await tx
      .select({ id: folder.id, path: folder.path })
      .from(folder)
      .where(and(eq(folder.connection, row.connection), inArray(folder.path, parentPaths(row.path))))
      .for("share");
    // Looked at only when they are held: whoever moves one has said so before letting go of it.
    const isStill = held.some((f) => f.id === id && f.path === row.path) && !(await isAnyUnderWay(tx, held));
    // Let go of while it is waited for: whoever moves it has to write down where it is.
    if (!isStill) await tx.execute(sql`rollback to savepoint still_folder`);
    await tx.execute(sql`release savepoint still_folder`);
    if (isStill) return row;
    if (Date.now() > until) throw new AppError("folder-moving", "later", "the folder is on its way to another place");
    await pause(LOOK_MS);
  }
}

async function isAnyUnderWay(tx: Tx, held: readonly { readonly id: number }[]): Promise<boolean> {
  const { rows } = await tx.execute(
    sql`select 1 from steps_under_way w where w.folders && ${idArray(held.map((f) => f.id))}::bigint[] limit 1`,
  );
  return rows.length > 0;
}

/** Whether the folder with this id is on its way to another path; SQL. Few rows are looked at, and mostly none. */
export const isUnderWay = (id: SQL): SQL => sql`exists (select 1 from steps_under_way w where ${id} = any(w.folders))`;

/** A path and every path above it, without the root. */
export function parentPaths(path: string): string[] {
  const steps = path.split("/");
  return steps.map((_, i) => steps.slice(0, i + 1).join("/"));
}
