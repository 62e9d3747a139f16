import { sql } from "drizzle-orm";
import { pathFolder } from "#core/filing-plan/legal-name.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { openRepository } from "./open-repository.ts";
import { nameOf, parentOf, type Step } from "./plan-step.ts";
import type { Chunk } from "./take-chunk.ts";

/** A step as a folder above it that changes, and what stays the same beneath that one. */
interface Split {
  readonly step: Step;
  readonly from: string;
  readonly to: string;
  readonly beneath: string;
}

/**
 * Folders that keep their names and only change a folder above them, as when a rule calls that one otherwise: where nothing else stands in it, it is
 * renamed itself, once for all of them; the highest one first. Answers the steps that were carried out so; the others are as they were, to be carried
 * out one by one.
 */
export async function carryTogether(steps: readonly Step[], elsewhere: Chunk["elsewhere"]): Promise<ReadonlySet<Step>> {
  const carried = new Set<Step>();
  const highest = highestOf();
  let left = steps.filter((s) => mayGoAlong(s, elsewhere)).flatMap((s) => highest(s) ?? []);
  const own = await ownFolders(left);
  const isOwn = (s: Split, path: string): boolean => own.has(keyOf(s.step.fromConnection, path));
  for (; left.length > 0; left = left.filter((s) => !carried.has(s.step)).flatMap((s) => lowerOf(s) ?? [])) {
    for (const group of groupsOf(left)) {
      const first = group[0];
      // All of a group leave the same folder.
      if (!first || isOwn(first, first.from) || group.some((s) => foldersBetween(s).some((path) => isOwn(s, path)))) continue;
      const repository = await openRepository(first.step.fromConnection);
      if (!(await repository.moveAllIn?.(first.from, first.to, new Set(group.map((s) => s.beneath))))) continue;
      for (const { step } of group) carried.add(step);
    }
  }
  return carried;
}

function mayGoAlong(step: Step, elsewhere: Chunk["elsewhere"]): boolean {
  return step.kind === "folder" && !step.isAside && step.fromConnection === step.toConnection && !elsewhere.has(step.folderId ?? 0);
}

/**
 * The highest folder that changes. Null when that is the folder itself, or when what is above would be the root. Very many steps leave the same folder
 * for the same other one: what changes above them is worked out once.
 */
function highestOf(): (step: Step) => Split | null {
  const known = new Map<string, Omit<Split, "step">>();
  return (step) => {
    const name = nameOf(step.fromPath);
    if (name !== nameOf(step.toPath)) return null;
    const [from, to] = [parentOf(step.fromPath), parentOf(step.toPath)];
    if (from === "" || to === "") return null;
    const way = `${from}\n${to}`;
    let above = known.get(way);
    if (!above) known.set(way, (above = changesAbove(from.split("/"), to.split("/"))));
    return { step, from: above.from, to: above.to, beneath: above.beneath === "" ? name : `${above.beneath}/${name}` };
  };
}

function changesAbove(from: readonly string[], to: readonly string[]): Omit<Split, "step"> {
  let same = 0;
  while (same < Math.min(from.length, to.length) - 1 && from.at(-1 - same) === to.at(-1 - same)) same++;
  const cut = (steps: readonly string[]): string => steps.slice(0, steps.length - same).join("/");
  return { from: cut(from), to: cut(to), beneath: from.slice(from.length - same).join("/") };
}

/** The same with one folder less to change, and null when none is left. */
function lowerOf({ step, from, to, beneath }: Split): Split | null {
  const cut = beneath.indexOf("/");
  if (cut === -1) return null;
  const name = beneath.slice(0, cut);
  return { step, from: `${from}/${name}`, to: `${to}/${name}`, beneath: beneath.slice(cut + 1) };
}

/** Those that leave one folder, where all of them go to one other. */
function groupsOf(splits: readonly Split[]): readonly (readonly Split[])[] {
  const groups = new Map<string, Split[]>();
  for (const s of splits) {
    const key = keyOf(s.step.fromConnection, s.from);
    const group = groups.get(key);
    if (group) group.push(s);
    else groups.set(key, [s]);
  }
  return [...groups.values()].filter((group) => group.every((s) => s.to === group[0]?.to));
}

const none: readonly string[] = [];

/** Folders between the one that changes and the step's own, from the top. */
function foldersBetween({ from, beneath }: Split): readonly string[] {
  if (!beneath.includes("/")) return none;
  const paths: string[] = [];
  for (let cut = beneath.indexOf("/"); cut !== -1; cut = beneath.indexOf("/", cut + 1)) paths.push(`${from}/${beneath.slice(0, cut)}`);
  return paths;
}

/** Of the folders that may be renamed, those that are a record's own, or a shelf: they stay what they are, whatever stands in them. */
async function ownFolders(splits: readonly Split[]): Promise<ReadonlySet<string>> {
  const asked = new Map<string, { readonly connection: string; readonly path: string }>();
  const ask = (connection: string, path: string): unknown => asked.set(keyOf(connection, path), { connection, path });
  // Steps stand in the order of their paths: those that leave the same folder stand together.
  let [connection, from] = ["", ""];
  for (const s of splits) {
    if (s.from !== from || s.step.fromConnection !== connection) ask((connection = s.step.fromConnection), (from = s.from));
    for (const path of foldersBetween(s)) ask(connection, path);
  }
  if (asked.size === 0) return new Set();
  const fold = pathFolder();
  const all = [...asked.values()];
  const { rows } = await db().execute<{ connection: string; path: string }>(sql`select f.connection, x.path from folder f
    join unnest(${textArray(all.map((a) => a.connection))}::text[], ${textArray(all.map((a) => a.path))}::text[], ${textArray(all.map((a) => fold(a.path)))}::text[])
      as x(connection, path, folded) on f.connection = x.connection and f.path_folded = x.folded`);
  return new Set(rows.map((r) => keyOf(r.connection, r.path)));
}

const keyOf = (connection: string, path: string): string => `${connection}/${path}`;
