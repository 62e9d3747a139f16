import { and, eq, sql } from "drizzle-orm";
import { foldName, foldPath, pathFolder } from "#core/filing-plan/legal-name.ts";
import { db, type Tx } from "../db/connect.ts";
import { pgCode } from "../db/describe-error.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { now } from "../ports/clock.ts";
import { linesOutOf, PROGRAM } from "../timeline/write-lines.ts";
import { nameOf, type Outcome, parentOf, type Step } from "./plan-step.ts";
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
  const isBack = outcomes[0]?.step.isBack ?? false;
  const moved = outcomes.filter((o) => o.kind === "moved");
  const counts = await keepSteps(tx, planId, outcomes, isBack);
  await keepBeneath(tx, outcomes);
  for (const { step } of moved.filter((o) => o.step.kind === "own")) await becomeOwn(tx, step);
  await keepFiles(tx, outcomes);
  // What is under way goes as soon as all of it is written down.
  const positions = outcomes.map((o) => o.step.position);
  await tx.execute(sql`delete from steps_under_way u where u.plan_id = ${planId} and u.wave = ${outcomes[0]?.step.wave ?? 0}
    and u.first <= ${Math.max(...positions)} and u.last >= ${Math.min(...positions)}
    and not exists (select 1 from move_step s where s.plan_id = u.plan_id and s.wave = u.wave and s.position between u.first and u.last
      and s.state = case when u.is_back then 'moved' else 'planned' end)`);
  const done = isBack ? -(counts("planned") + counts("clash")) : counts("moved");
  // The plan's row last: whoever takes the next steps waits for it.
  await tx.execute(
    sql`update move_plan set done = done + ${done}, failed = failed + ${counts("failed")}, clashes = clashes + ${counts("clash")} where id = ${planId}`,
  );
}

/**
 * Writes down how steps ended, where their folders are now, and the lines of the timelines, as one statement out of what the database has of the steps.
 * From then on nobody enters a folder beneath one of them. Answers how many steps there are of a state now.
 */
async function keepSteps(tx: Tx, planId: string, outcomes: readonly Outcome[], isBack: boolean): Promise<(state: string) => number> {
  // What could not be brought back stays where it was brought.
  const trouble = outcomes
    .filter((o) => o.kind !== "moved")
    .map((o) => ({ position: o.step.position, state: isBack ? "clash" : o.kind, why: o.why }));
  const fold = pathFolder();
  const was = outcomes.map(({ step }) => (step.kind === "folder" ? fold(step.fromPath) : ""));
  const is = outcomes.map(({ step }) => (step.kind === "folder" ? fold(step.toPath) : ""));
  const [from, to] = isBack ? [sql`to_path`, sql`from_path`] : [sql`from_path`, sql`to_path`];
  const { rows } = await tx.execute<{ state: string; n: number }>(sql`with given as (
      select * from unnest(${idArray(outcomes.map((o) => o.step.position))}::int[], ${textArray(was)}::text[], ${textArray(is)}::text[]) as g(position, was_folded, is_folded)),
    trouble as (select * from json_to_recordset(${JSON.stringify(trouble)}::json) as t(position int, state text, why text)),
    kept as (update move_step s set state = coalesce(t.state, ${isBack ? "planned" : "moved"}), why = t.why from given g left join trouble t on t.position = g.position
      where s.plan_id = ${planId} and s.position = g.position and s.state = ${isBack ? "moved" : "planned"}
      returning s.position, s.state, t.position is null as is_moved, s.kind, s.is_aside, s.record_id, s.document_id, s.folder_id,
        s.${from} as was, s.${to} as "is", g.was_folded, g.is_folded),
    places as (update folder f set digest = null, path = case when k.is_moved and f.path = k.was then k.is else f.path end,
        path_folded = case when k.is_moved and f.path = k.was then k.is_folded else f.path_folded end
      from kept k where k.kind = 'folder' and f.id = k.folder_id),
    lines as (${linesOutOf(sql`select case kind when 'file' then 'moved' else 'folderMoved' end, ${PROGRAM}::text, null::text, case kind when 'file' then document_id end,
        case kind when 'folder' then record_id end, null::uuid,
        case kind when 'file' then jsonb_build_object('path', k.is, 'plan', ${planId}::text) else jsonb_build_object('from', k.was, 'to', k.is, 'plan', ${planId}::text) end
      from kept k where is_moved and not is_aside and case kind when 'file' then document_id when 'folder' then record_id end is not null order by position`)})
    select state, count(*)::int as n from kept group by state`);
  return (state) => rows.find((r) => r.state === state)?.n ?? 0;
}

/** What stands beneath folders that moved is where they are now. */
async function keepBeneath(tx: Tx, outcomes: readonly Outcome[]): Promise<void> {
  const steps = outcomes.filter((o) => o.kind === "moved" && o.step.kind === "folder").map((o) => o.step);
  if (steps.length === 0) return;
  const fold = pathFolder();
  const texts = [
    steps.map((s) => s.fromConnection),
    steps.map((s) => s.fromPath),
    steps.map((s) => s.toPath),
    steps.map((s) => fold(s.fromPath)),
    steps.map((s) => fold(s.toPath)),
  ].map((t) => sql`${textArray(t)}::text[]`);
  // Every folder that was entered until its own was written down is seen now. Looked for one range of the index after the other: joined at once,
  // every folder would be held against every range.
  await tx.execute(sql`update folder f set path = b.path, path_folded = b.path_folded from (
      select beneath.id, x.is || substr(beneath.path, length(x.was) + 1) as path, x.is_folded || substr(beneath.path_folded, length(x.was_folded) + 1) as path_folded
      from unnest(${sql.join(texts, sql`, `)}) as x(connection, was, "is", was_folded, is_folded) cross join lateral (select id, path, path_folded from folder
        where connection = x.connection and path_folded >= x.was_folded || '/' and path_folded < x.was_folded || '0' offset 0) beneath) b
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
        state = case when p.state = 'moving' then 'placed' else p.state end,
        seen_bytes = coalesce(x.bytes, p.seen_bytes), seen_modified_ms = coalesce(x.modified, p.seen_modified_ms), seen_mark = coalesce(x.mark, p.seen_mark)
      from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as x(id bigint, folder bigint, name text, folded text, bytes bigint, modified bigint, mark text)
      where p.document_id = x.id`);
  }
  const left = outcomes.filter((o) => o.kind !== "moved" && o.step.kind === "file").map((o) => o.step.documentId);
  if (left.length > 0)
    await tx.execute(
      sql`update placement set state = 'placed' where document_id = any(${idArray(left.flatMap((id) => (id === null ? [] : [id])))}::bigint[]) and state = 'moving' and taken_back_by is null`,
    );
  const papers = outcomes.flatMap((o) => (o.step.documentId === null ? [] : [o.step.documentId]));
  const others = outcomes.flatMap((o) => (o.step.folderId === null || o.step.kind === "folder" ? [] : [o.step.folderId]));
  // A listing that was right before says nothing about a folder that something left or came into.
  if (papers.length + others.length > 0)
    await tx.execute(sql`update folder set digest = null where digest is not null and id in (
      select folder_id from placement where document_id = any(${idArray(papers)}::bigint[]) union all select unnest(${idArray(others)}::bigint[]))`);
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
