import { sql } from "drizzle-orm";
import { pathFolder } from "#core/filing-plan/legal-name.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { openRepository } from "./open-repository.ts";
import { nameOf, parentOf, type Step } from "./plan-step.ts";
import type { Chunk } from "./take-chunk.ts";

interface Group {
  readonly connection: string;
  readonly from: string;
  readonly to: string;
  readonly steps: Step[];
}

/**
 * Folders that keep their names and only change the folder above them, as when a rule calls that one otherwise: where nothing else stands in it, it is
 * renamed itself, once for all of them. Answers the steps that were carried out so; the others are as they were, to be carried out one by one.
 */
export async function carryTogether(steps: readonly Step[], folders: Chunk["folders"]): Promise<ReadonlySet<Step>> {
  const carried = new Set<Step>();
  for (const group of await withoutOwnFolders(groupsOf(steps, folders))) {
    const repository = await openRepository(group.connection);
    const names = new Set(group.steps.map((s) => nameOf(s.fromPath)));
    if (!(await repository.moveAllIn?.(group.from, group.to, names))) continue;
    for (const step of group.steps) carried.add(step);
  }
  return carried;
}

/** Two or more that leave one folder for one other. */
function groupsOf(steps: readonly Step[], folders: Chunk["folders"]): readonly Group[] {
  const groups = new Map<string, Group>();
  for (const step of steps) {
    const { fromConnection: connection, fromPath, toPath } = step;
    if (step.kind !== "folder" || step.isAside || connection !== step.toConnection || folders.get(step.folderId ?? 0) !== fromPath)
      continue;
    const [from, to] = [parentOf(fromPath), parentOf(toPath)];
    if (from === "" || to === "" || from === to || nameOf(fromPath) !== nameOf(toPath)) continue;
    const key = `${connection}\0${from}\0${to}`;
    const group = groups.get(key) ?? { connection, from, to, steps: [] };
    group.steps.push(step);
    groups.set(key, group);
  }
  return [...groups.values()].filter((g) => g.steps.length > 1);
}

/** A folder that is a record's own, or a shelf, stays what it is, whatever stands in it. */
async function withoutOwnFolders(groups: readonly Group[]): Promise<readonly Group[]> {
  if (groups.length === 0) return [];
  const fold = pathFolder();
  const asked = groups.flatMap((g) => [
    { connection: g.connection, path: fold(g.from) },
    { connection: g.connection, path: fold(g.to) },
  ]);
  const { rows } = await db().execute<{ connection: string; path: string }>(sql`select f.connection, f.path_folded as path from folder f
    join unnest(${textArray(asked.map((a) => a.connection))}::text[], ${textArray(asked.map((a) => a.path))}::text[]) as x(connection, path)
      on f.connection = x.connection and f.path_folded = x.path`);
  const own = new Set(rows.map((r) => `${r.connection}/${r.path}`));
  return groups.filter((g) => ![g.from, g.to].some((path) => own.has(`${g.connection}/${fold(path)}`)));
}
