import { sql } from "drizzle-orm";
import { pathFolder } from "#core/filing-plan/legal-name.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import type { FoldersIn } from "../ports/repository.ts";
import { openRepository } from "./open-repository.ts";
import { nameOf, parentOf, type Step } from "./plan-step.ts";
import type { Chunk } from "./take-chunk.ts";

/** Steps whose folders leave the same folder for the same other one and keep their names: what changes above them, and what stays the same between. */
interface Split {
  readonly connection: string;
  readonly from: string;
  readonly to: string;
  /** Folders from there down to those of the steps. */
  readonly between: readonly string[];
  readonly steps: readonly Step[];
}

/** Which steps were carried out with others, and the folders that were renamed for them. */
export interface Together {
  readonly steps: ReadonlySet<Step>;
  readonly renamed: readonly Pick<Split, "connection" | "from" | "to">[];
}

/**
 * Folders that keep their names and only change a folder above them, as when a rule calls that one otherwise: where nothing else stands in it, it is
 * renamed itself, once for all of them; the highest one first. Answers the steps that were carried out so; the others are as they were, to be carried
 * out one by one.
 */
export async function carryTogether(steps: readonly Step[], elsewhere: Chunk["elsewhere"]): Promise<Together> {
  const carried = new Set<Step>();
  const renamed: Split[] = [];
  let left = highestOf(steps, elsewhere);
  const own = await ownFolders(left);
  const isOwn = (s: Split, path: string): boolean => own.has(keyOf(s.connection, path));
  while (left.length > 0) {
    const lower: Split[] = [];
    for (const group of groupsOf(left)) {
      const first = group[0];
      if (!first) continue;
      const mayGo = group.every((s) => s.to === first.to && !foldersOf(s).some((path) => isOwn(s, path)));
      const repository = mayGo ? await openRepository(first.connection) : null;
      if (await repository?.moveAllIn?.(first.from, first.to, foldersIn(group))) {
        renamed.push(first);
        for (const s of group) for (const step of s.steps) carried.add(step);
      } else lower.push(...group.flatMap((s) => lowerOf(s) ?? []));
    }
    left = lower;
  }
  return { steps: carried, renamed };
}

function mayGoAlong(step: Step, elsewhere: Chunk["elsewhere"]): boolean {
  return step.kind === "folder" && !step.isAside && step.fromConnection === step.toConnection && !elsewhere.has(step.folderId ?? 0);
}

/** What changes above the steps, as high up as it does. Without those where that is the folder itself, or where what is above would be the root. */
function highestOf(steps: readonly Step[], elsewhere: Chunk["elsewhere"]): Split[] {
  const byWay = new Map<string, Step[]>();
  for (const step of steps) {
    if (!mayGoAlong(step, elsewhere)) continue;
    const way = wayOf(step);
    if (way === null) continue;
    const others = byWay.get(way);
    if (others) others.push(step);
    else byWay.set(way, [step]);
  }
  return [...byWay.values()].flatMap((others) => {
    const step = others[0];
    if (!step) return [];
    const [from, to] = [parentOf(step.fromPath), parentOf(step.toPath)].map((p) => p.split("/")) as [string[], string[]];
    let same = 0;
    while (same < Math.min(from.length, to.length) - 1 && from.at(-1 - same) === to.at(-1 - same)) same++;
    const cut = (path: readonly string[]): string => path.slice(0, path.length - same).join("/");
    return [{ connection: step.fromConnection, from: cut(from), to: cut(to), between: from.slice(from.length - same), steps: others }];
  });
}

/** From which folder to which other one a step goes; null when its own name changes, or one of these is the root. */
function wayOf({ fromConnection, fromPath, toPath }: Step): string | null {
  const [cut, toCut] = [fromPath.lastIndexOf("/"), toPath.lastIndexOf("/")];
  if (cut < 1 || toCut < 1 || fromPath.length - cut !== toPath.length - toCut || !toPath.endsWith(fromPath.slice(cut))) return null;
  return `${fromConnection}\n${fromPath.slice(0, cut)}\n${toPath.slice(0, toCut)}`;
}

/** The same with one folder less to change; null when none is left. */
function lowerOf(split: Split): Split | null {
  const [name, ...between] = split.between;
  return name === undefined ? null : { ...split, from: `${split.from}/${name}`, to: `${split.to}/${name}`, between };
}

/** Those that leave one folder. */
function groupsOf(splits: readonly Split[]): Iterable<readonly Split[]> {
  const groups = new Map<string, Split[]>();
  for (const s of splits) {
    const key = keyOf(s.connection, s.from);
    const group = groups.get(key);
    if (group) group.push(s);
    else groups.set(key, [s]);
  }
  return groups.values();
}

/** The folder that would be renamed, and those from there down to the steps' own. */
const foldersOf = ({ from, between }: Split): string[] => [from, ...between.map((_, i) => [from, ...between.slice(0, i + 1)].join("/"))];

/** Names of the steps' own folders, by what holds them in the one that would be renamed. */
const foldersIn = (splits: readonly Split[]): FoldersIn =>
  new Map(splits.map(({ between, steps }) => [between.join("/"), new Set(steps.map((step) => nameOf(step.fromPath)))]));

/** Of the folders that may be renamed, those that are a record's own, or a shelf: they stay what they are, whatever stands in them. */
async function ownFolders(splits: readonly Split[]): Promise<ReadonlySet<string>> {
  const asked = new Map<string, { readonly connection: string; readonly path: string }>();
  for (const s of splits) for (const path of foldersOf(s)) asked.set(keyOf(s.connection, path), { connection: s.connection, path });
  if (asked.size === 0) return new Set();
  const fold = pathFolder();
  const all = [...asked.values()];
  const { rows } = await db().execute<{ connection: string; path: string }>(sql`select f.connection, x.path from folder f
    join unnest(${textArray(all.map((a) => a.connection))}::text[], ${textArray(all.map((a) => a.path))}::text[], ${textArray(all.map((a) => fold(a.path)))}::text[])
      as x(connection, path, folded) on f.connection = x.connection and f.path_folded = x.folded`);
  return new Set(rows.map((r) => keyOf(r.connection, r.path)));
}

const keyOf = (connection: string, path: string): string => `${connection}/${path}`;
