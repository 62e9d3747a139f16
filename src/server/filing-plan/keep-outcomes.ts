import { and, eq, sql } from "drizzle-orm";
import { foldName, foldPath, pathFolder } from "#core/filing-plan/legal-name.ts";
import { db, type Tx } from "../db/connect.ts";
import { pgCode } from "../db/describe-error.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { now } from "../ports/clock.ts";
import { linesOutOf, PROGRAM } from "../timeline/write-lines.ts";
import {
  highestPosition,
  isAsTaken,
  isMoved,
  isPlanned,
  lowest,
  nameOf,
  type Outcome,
  parentOf,
  positionsOf,
  type Step,
} from "./plan-step.ts";
import { folder } from "./tables.ts";

/** Writes down what came of a chunk: where folders and files are now, the steps, the plan's counts, the timelines. One transaction. */
export async function keepOutcomes(planId: string, outcomes: readonly Outcome[]): Promise<void> {
  try {
    await db().transaction(async (tx) => {
      // Not waited for on the disk: what is lost of this in a power cut is found to have happened when the steps, which are under way until then, are looked at.
      await tx.execute(sql`set local synchronous_commit = off`);
      await keepIn(tx, planId, outcomes);
    });
  } catch (error) {
    // One that cannot be entered (a place was given out meanwhile) must not hold up the others: it is found by halves.
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
    const half = Math.ceil(outcomes.length / 2);
    await keepOutcomes(planId, outcomes.slice(0, half));
    await keepOutcomes(planId, outcomes.slice(half));
  }
}

async function keepIn(tx: Tx, planId: string, outcomes: readonly Outcome[]): Promise<void> {
  const wave = outcomes[0]?.step.wave ?? 0;
  const isBack = outcomes[0]?.step.isBack ?? false;
  const steps = outcomes.map((o) => o.step);
  const [first, last] = [lowest(steps), highestPosition(steps)];
  const moved = outcomes.filter((o) => o.kind === "moved");
  const kept = await keepSteps(tx, planId, outcomes, isBack);
  for (const between of kept.between ?? []) {
    const folders = moved.map((o) => o.step).filter((step) => step.kind === "folder" && step.fromConnection === between[0]);
    if (!(await keepBetween(tx, between, folders))) await keepBeneathEach(tx, between[0], folders);
  }
  for (const { step } of moved.filter((o) => o.step.kind === "own")) await becomeOwn(tx, step);
  await keepFiles(tx, outcomes);
  // Of steps that were moved those that are not any more, in whatever way, are done no longer; what could not be brought back is a clash.
  const [done, failed, clashes] = isBack ? [-(kept.moved + kept.trouble), 0, kept.trouble] : [kept.moved, kept.failed, kept.clashes];
  // The plan's row late: whoever takes the next steps waits for it.
  await tx.execute(sql`update move_plan set moved = moved ${isBack ? sql`-` : sql`+`} ${kept.positions}::int4multirange,
    done = done + ${done}, failed = failed + ${failed}, clashes = clashes + ${clashes} where id = ${planId}`);
  // What is under way goes as soon as all of it is written down.
  await tx.execute(sql`delete from steps_under_way u where u.plan_id = ${planId} and u.wave = ${wave} and u.first <= ${last} and u.last >= ${first}
    and not exists (select 1 from move_step s where s.plan_id = u.plan_id and s.wave = u.wave and s.position between u.first and u.last
      and ${isAsTaken(planId, sql`s`, sql`u`)})`);
}

/** What was written down of steps: how many were moved, how many were not and how, and the positions whose place is another now. */
interface KeptSteps {
  readonly moved: number;
  readonly trouble: number;
  readonly failed: number;
  readonly clashes: number;
  readonly positions: string;
  /** Of each connection, how many folders moved, between which folded paths they stood, and how many bytes the shortest of these has; null when none did. */
  readonly between: readonly Between[] | null;
}
type Between = readonly [connection: string, folders: number, first: string, last: string, shortest: number];

/**
 * Writes down what did not work, where the folders of the steps are now, and the lines of the timelines, as one statement out of what the database has
 * of the steps. From then on nobody enters a folder beneath one of them. Which steps were moved goes to the plan, as ranges.
 */
async function keepSteps(tx: Tx, planId: string, outcomes: readonly Outcome[], isBack: boolean): Promise<KeptSteps> {
  // What could not be brought back stays where it was brought.
  const trouble = outcomes
    .filter((o) => o.kind !== "moved")
    .map((o) => ({ position: o.step.position, state: isBack ? "clash" : o.kind, why: o.why }));
  const sides = [
    [sql`from_connection`, sql`from_path`, sql`from_folded`],
    [sql`to_connection`, sql`to_path`, sql`to_folded`],
  ] as const;
  const [[connection, from, fromFolded], [, to, toFolded]] = isBack ? [sides[1], sides[0]] : sides;
  const s = sql`s`;
  const steps = outcomes.map((o) => o.step);
  const { rows } = await tx.execute<KeptSteps & Record<string, unknown>>(sql`with
    trouble as (select * from json_to_recordset(${JSON.stringify(trouble)}::json) as t(position int, state text, why text)),
    taken as materialized (select s.position, t.state as trouble, t.why, t.position is null as is_moved, s.why is not null as had_why, s.kind, s.is_aside, s.record_id, s.document_id, s.folder_id,
        s.${connection} as connection, s.${from} as was, s.${to} as "is", s.${fromFolded} as was_folded, s.${toFolded} as is_folded
      from move_step s left join trouble t on t.position = s.position
      where s.plan_id = ${planId} and s.position between ${lowest(steps)} and ${highestPosition(steps)} and ${positionsOf(steps)}::int4multirange @> s.position
        and ${isBack ? isMoved(planId, s) : isPlanned(planId, s)}),
    states as (update move_step s set state = coalesce(k.trouble, 'planned'), why = k.why from taken k
      where s.plan_id = ${planId} and s.position = k.position and (k.trouble is not null or k.had_why)),
    places as (update folder f set digest = null, path = case when k.is_moved and f.path = k.was then k.is else f.path end,
        path_folded = case when k.is_moved and f.path = k.was then k.is_folded else f.path_folded end
      from taken k where k.kind = 'folder' and f.id = k.folder_id),
    lines as (${linesOutOf(sql`select case kind when 'file' then 'moved' else 'folderMoved' end, ${PROGRAM}::text, null::text, case kind when 'file' then document_id end,
        case kind when 'folder' then record_id end, null::uuid,
        jsonb_object(case kind when 'file' then array['path', k.is, 'plan', ${planId}::text] else array['from', k.was, 'to', k.is, 'plan', ${planId}::text] end)
      from taken k where is_moved and not is_aside and case kind when 'file' then document_id when 'folder' then record_id end is not null`)})
    select count(*) filter (where is_moved)::int as moved, count(trouble)::int as trouble, count(*) filter (where trouble = 'failed')::int as failed,
      count(*) filter (where trouble = 'clash')::int as clashes,
      coalesce(range_agg(int4range(position, position + 1)) filter (where is_moved or ${isBack}), '{}')::text as positions,
      (select json_agg(json_build_array(connection, folders, first, last, shortest)) from (select connection, count(*) as folders, min(was_folded) as first, max(was_folded) as last,
          min(octet_length(was_folded)) as shortest
        from taken where is_moved and kind = 'folder' group by connection) b) as between from taken`);
  const kept = rows[0];
  if (!kept) throw new Error("nothing was counted");
  return kept;
}

/** Folders that are looked at for each step, at most, to find those beneath: more when other folders stand between those that moved. */
const LOOKED_AT_EACH = 4;
const LOOKED_AT_LEAST = 200;

/**
 * What stands beneath folders that moved is where they are now. Every folder that was entered until its own was written down is seen now. Steps stand in
 * the order of their paths: between the first and the last of a chunk hardly any folder is left once they are written down, and those that are beneath
 * one of them are found in one look. Answers whether that was all; not when very many others stand between.
 */
async function keepBetween(tx: Tx, [connection, folders, first, last, shortest]: Between, steps: readonly Step[]): Promise<boolean> {
  const max = Math.max(LOOKED_AT_LEAST, folders * LOOKED_AT_EACH);
  const { rows } = await tx.execute<{ id: number; path: string; folded: string }>(sql`select id, path, path_folded as folded from folder
    where connection = ${connection} and path_folded > ${first} and path_folded < ${`${last}0`} and octet_length(path_folded) > ${shortest} limit ${max}`);
  if (rows.length === max) return false;
  if (rows.length === 0) return true;
  const fold = pathFolder();
  const byPath = new Map(steps.map((step) => [fold(step.fromPath), step]));
  const beneath = rows.flatMap(({ id, path, folded }) => {
    for (let cut = folded.lastIndexOf("/"); cut > 0; cut = folded.lastIndexOf("/", cut - 1)) {
      const parent = byPath.get(folded.slice(0, cut));
      if (parent)
        return [{ id, path: parent.toPath + path.slice(parent.fromPath.length), folded: fold(parent.toPath) + folded.slice(cut) }];
    }
    return [];
  });
  if (beneath.length > 0)
    await tx.execute(sql`update folder f set path = b.path, path_folded = b.folded
      from jsonb_to_recordset(${JSON.stringify(beneath)}::jsonb) as b(id bigint, path text, folded text) where f.id = b.id`);
  return true;
}

/** Looked for one range of the index after the other: joined at once, every folder would be held against every range. */
async function keepBeneathEach(tx: Tx, connection: string, steps: readonly Step[]): Promise<void> {
  const fold = pathFolder();
  const moved = steps.map(({ fromPath, toPath }) => [fromPath, toPath, fold(fromPath), fold(toPath)]);
  const texts = [0, 1, 2, 3].map((which) => sql`${textArray(moved.map((m) => m[which] ?? ""))}::text[]`);
  await tx.execute(sql`update folder f set path = b.path, path_folded = b.path_folded from (
      select beneath.id, x.is || substr(beneath.path, length(x.was) + 1) as path, x.is_folded || substr(beneath.path_folded, length(x.was_folded) + 1) as path_folded
      from unnest(${sql.join(texts, sql`, `)}) as x(was, "is", was_folded, is_folded) cross join lateral (select id, path, path_folded from folder
        where connection = ${connection} and path_folded >= x.was_folded || '/' and path_folded < x.was_folded || '0' offset 0) beneath) b
    where f.id = b.id`);
}

/** Where files are now, as they were seen there; those that stayed are placed again. */
async function keepFiles(tx: Tx, outcomes: readonly Outcome[]): Promise<void> {
  const files = outcomes.filter((o) => o.kind === "moved" && o.step.kind === "file");
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
        state = case when p.state = 'moving' then 'stored' else p.state end,
        seen_bytes = coalesce(x.bytes, p.seen_bytes), seen_modified_ms = coalesce(x.modified, p.seen_modified_ms), seen_mark = coalesce(x.mark, p.seen_mark)
      from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as x(id bigint, folder bigint, name text, folded text, bytes bigint, modified bigint, mark text)
      where p.document_id = x.id`);
  }
  const left = outcomes.filter((o) => o.kind !== "moved" && o.step.kind === "file").map((o) => o.step.documentId);
  if (left.length > 0)
    await tx.execute(
      sql`update placement set state = 'stored' where document_id = any(${idArray(left.flatMap((id) => (id === null ? [] : [id])))}::bigint[]) and state = 'moving' and taken_back_by is null`,
    );
  const papers = outcomes.flatMap((o) => (o.step.documentId === null ? [] : [o.step.documentId]));
  const others = outcomes.flatMap((o) => (o.step.folderId === null || o.step.kind === "folder" ? [] : [o.step.folderId]));
  // A listing that was right before says nothing about a folder that something left or came into.
  if (papers.length + others.length > 0)
    await tx.execute(sql`update folder set digest = null where digest is not null and id in (
      select folder_id from placement where document_id = any(${idArray(papers)}::bigint[]) union all select unnest(${idArray(others)}::bigint[]))`);
}

/** Another folder becomes the record's own; the one it had stays as one within its documents until it is empty. */
async function becomeOwn(tx: Tx, step: Step): Promise<void> {
  if (step.recordId === null) return;
  const id = await ensureFolder(tx, step.toConnection, step.toPath, step.recordId);
  await tx.execute(
    sql`update folder set kind = 'within' where id in (select folder_id from record_folder where record_id = ${step.recordId} and is_own)`,
  );
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
