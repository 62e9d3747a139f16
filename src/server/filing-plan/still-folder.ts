import { setTimeout as pause } from "node:timers/promises";
import { and, eq, inArray } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";
import { AppError } from "../ports/app-error.ts";
import { folder } from "./tables.ts";

/** How long somebody who wants to put something into a folder waits for it to arrive where it is moving to, ms. */
const WAIT_MS = 15_000;
const LOOK_MS = 40;

/**
 * A folder's row, held so that neither it nor any folder above it moves until the transaction ends. Waits while one is on its way; throws
 * AppError `folder-moving` when that takes too long. Null when there is no such folder.
 */
export async function stillFolder(tx: Tx, id: number): Promise<typeof folder.$inferSelect | null> {
  for (const until = Date.now() + WAIT_MS; ;) {
    const row = (await tx.select().from(folder).where(eq(folder.id, id)))[0];
    if (!row) return null;
    const held = await tx
      .select({ id: folder.id, path: folder.path, isMoving: folder.isMoving })
      .from(folder)
      .where(and(eq(folder.connection, row.connection), inArray(folder.path, pathsAbove(row.path))))
      .for("share");
    if (held.some((f) => f.id === id && f.path === row.path) && !held.some((f) => f.isMoving)) return row;
    if (Date.now() > until) throw new AppError("folder-moving", "later", "the folder is on its way to another place");
    await pause(LOOK_MS);
  }
}

/** A path and every path above it, without the root. */
export function pathsAbove(path: string): string[] {
  const steps = path.split("/");
  return steps.map((_, i) => steps.slice(0, i + 1).join("/"));
}
