import { and, eq, inArray, sql } from "drizzle-orm";
import { decideFolder, type FolderRecord, ruleFor } from "#core/filing-plan/decide-folder.ts";
import { foldPath, type NamingLimits, numberedName, utf8Bytes } from "#core/filing-plan/legal-name.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import type { Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { record } from "../records/tables.ts";
import { loadRules } from "./load-rules.ts";
import { limitsOf } from "./open-repository.ts";
import { lockSettledFolder } from "./lock-settled-folder.ts";
import { folder, recordFolder } from "./tables.ts";

/** A record's folder as settled: its steps, and its row when it was kept (null in a preview of one that is not yet there). */
export interface SettledFolder {
  readonly id: number | null;
  readonly connection: string;
  readonly segments: readonly string[];
  readonly unassigned: boolean;
}

/** Records above a record that are looked at; more would be a ring. */
export const DEPTH_MAX = 12;
/** Namesakes that are tried with a number before giving up. */
const NAMESAKES_MAX = 10_000;

/**
 * The folder of a record: the one it has, else where the rules put it, told apart from every other record's (promise 5). A record that has a
 * folder keeps it when a rule changes; only a move plan moves it. With `keep` the folder and those above it are entered so that nobody else gets
 * them, and held so that they do not move until the transaction ends; without, nothing is written. Refuses no-folder-rule and path-too-long.
 */
export async function settleFolder(
  tx: Tx,
  recordId: number,
  keep: boolean,
  limitsFor: (connection: string) => Promise<NamingLimits> = limitsOf,
): Promise<Result<SettledFolder>> {
  const line: (typeof record.$inferSelect)[] = [];
  for (let at: number | null = recordId; at !== null && line.length < DEPTH_MAX;) {
    const found: (typeof record.$inferSelect)[] = await tx.select().from(record).where(eq(record.id, at));
    if (!found[0]) break;
    line.push(found[0]);
    at = found[0].parentId;
  }
  const rules = await loadRules(
    tx,
    line.map((r) => r.type),
  );
  if (!line[0] || !rules.has(line[0].type)) return refuse("no-folder-rule", line[0]?.type);
  // From the top down: each folder stands in the one above it.
  let parent: SettledFolder | null = null;
  let stamp = "";
  for (const row of line.reverse()) {
    const current = await ownFolder(tx, row.id, keep);
    const inForce = rules.get(row.type);
    if (current) {
      const isAlone: boolean = inForce !== undefined && ruleFor(asFolderRecord(row), inForce.rule).inside !== null && parent === null;
      parent = { id: current.id, connection: current.connection, segments: current.path.split("/"), unassigned: isAlone };
      stamp = current.ruleStamp;
      continue;
    }
    if (!inForce) {
      parent = null;
      continue;
    }
    const holds = ruleFor(asFolderRecord(row), inForce.rule);
    const limits = await limitsFor(holds.connection);
    stamp = holds.inside && parent ? `${stamp}/${row.type}:${inForce.version}` : `${row.type}:${inForce.version}`;
    const proposal = decideFolder(asFolderRecord(row), inForce.rule, holds.inside && parent ? parent.segments : null, limits);
    const chosen = await chooseFree(tx, holds.connection, proposal.segments, proposal.toldApart, limits);
    if (utf8Bytes(chosen.join("/")) > limits.pathBytesMax) return refuse("path-too-long");
    let id: number | null = null;
    if (keep) {
      id = await enterOwnFolder(tx, { recordId: row.id, connection: holds.connection, segments: chosen, ruleStamp: stamp });
      if (id === null) return settleFolder(tx, recordId, keep, limitsFor);
    }
    parent = { id, connection: holds.connection, segments: chosen, unassigned: proposal.unassigned };
  }
  return parent ? ok(parent) : refuse("no-folder-rule");
}

/** First half of the lock on one record's own folder. */
const OWN_LOCK = 730_012;

/**
 * Enters a record's own folder and answers its id. Null when somebody was quicker, with a folder of this record or with another's of that name:
 * both have to be looked at again. Until the transaction ends nobody else enters one for the record.
 */
export async function enterOwnFolder(
  tx: Tx,
  own: { readonly recordId: number; readonly connection: string; readonly segments: readonly string[]; readonly ruleStamp: string },
): Promise<number | null> {
  await tx.execute(sql`select pg_advisory_xact_lock(${OWN_LOCK}, hashint8(${own.recordId}))`);
  const made = await tx.execute<{ id: number }>(sql`insert into folder (record_id, connection, path, path_folded, rule_stamp, made_at)
    select ${own.recordId}::bigint, ${own.connection}, ${own.segments.join("/")}, ${foldPath(own.segments)}, ${own.ruleStamp}, ${now()}::timestamptz
    where not exists (select 1 from record_folder where record_id = ${own.recordId} and is_own)
    on conflict do nothing returning id`);
  return made.rows[0]?.id ?? null;
}

async function ownFolder(tx: Tx, recordId: number, keep: boolean): Promise<typeof folder.$inferSelect | null> {
  const own = tx
    .select({ id: recordFolder.folderId })
    .from(recordFolder)
    .where(and(eq(recordFolder.recordId, recordId), recordFolder.isOwn));
  const found = (await tx.select().from(folder).where(inArray(folder.id, own)))[0];
  return found && keep ? lockSettledFolder(tx, found.id) : (found ?? null);
}

/** The first free of the plain path, the one told apart by its field, and those with a number. */
export async function chooseFree(
  tx: Tx,
  connection: string,
  plain: readonly string[],
  apart: readonly string[] | null,
  limits: NamingLimits,
): Promise<readonly string[]> {
  const free = async (segments: readonly string[]): Promise<boolean> => {
    const path = foldPath(segments);
    const taken = await tx.execute<{ taken: boolean }>(sql`select
      exists (select 1 from folder where connection = ${connection} and path_folded = ${path})
      or exists (select 1 from placement p join folder f on f.id = p.folder_id where f.connection = ${connection}
        and f.path_folded = ${foldPath(segments.slice(0, -1))} and p.name_folded = ${foldPath(segments.slice(-1))}) as taken`);
    return taken.rows[0]?.taken !== true;
  };
  if (await free(plain)) return plain;
  if (apart && (await free(apart))) return apart;
  const base = apart ?? plain;
  for (let number = 2; number < NAMESAKES_MAX; number++) {
    const candidate = [...base.slice(0, -1), numberedName(base.at(-1) ?? "", "", number, limits)];
    if (await free(candidate)) return candidate;
  }
  throw new Error("too many namesakes");
}

/** A record row as the core's folder decision reads it. */
export function asFolderRecord(
  row: Pick<typeof record.$inferSelect, "company" | "key" | "title" | "status" | "date" | "fields">,
): FolderRecord {
  return { company: row.company, key: row.key, title: row.title, status: row.status, date: row.date, fields: row.fields as FieldValues };
}
