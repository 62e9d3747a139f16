import { and, eq, sql } from "drizzle-orm";
import { foldName, foldPath, pathFolder } from "#core/filing-plan/legal-name.ts";
import { db, type Tx } from "../db/connect.ts";
import { pgCode } from "../db/describe-error.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { now } from "../ports/clock.ts";
import { type NewLine, PROGRAM, writeLines } from "../timeline/write-lines.ts";
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
  const isBack = outcomes[0]?.step.why === "back";
  const moved = outcomes.filter((o) => o.kind === "moved");
  const folders = outcomes.filter((o) => o.step.kind === "folder");
  if (folders.length > 0) {
    const fold = pathFolder();
    const ids = idArray(folders.map(({ step }) => step.folderId ?? 0));
    const was = folders.map(({ step }) => step.fromPath);
    const is = folders.map(({ step, kind }) => (kind === "moved" ? step.toPath : step.fromPath));
    const texts = [folders.map(({ step }) => step.fromConnection), was, is, was.map(fold), is.map(fold)].map(
      (t) => sql`${textArray(t)}::text[]`,
    );
    const given = sql`unnest(${ids}::bigint[], ${sql.join(texts, sql`, `)}) as x(id, connection, was, "is", was_folded, is_folded)`;
    // These first: from then on nobody enters a folder beneath one of them, and the next statement sees every one that was entered until now.
    await tx.execute(sql`update folder f set path = case when f.path = x.was then x.is else f.path end,
        path_folded = case when f.path = x.was then x.is_folded else f.path_folded end, digest = null
      from ${given} where f.id = x.id`);
    // What is beneath is looked for one range of the index after the other: joined at once, every folder would be held against every range.
    await tx.execute(sql`update folder f set path = b.path, path_folded = b.path_folded from (
        select beneath.id, x.is || substr(beneath.path, length(x.was) + 1) as path, x.is_folded || substr(beneath.path_folded, length(x.was_folded) + 1) as path_folded
        from ${given} cross join lateral (select id, path, path_folded from folder
          where connection = x.connection and path_folded >= x.was_folded || '/' and path_folded < x.was_folded || '0' offset 0) beneath) b
      where f.id = b.id`);
    await tx.execute(sql`delete from folder_under_way where folder_id = any(${ids}::bigint[])`);
  }
  const lines: NewLine[] = [];
  for (const { step } of moved.filter((o) => o.step.kind === "own")) await becomeOwn(tx, step);
  const files = moved.filter((o) => o.step.kind === "file");
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
  // What could not be brought back stays where it was brought.
  const states = outcomes.map((o) => (o.kind === "moved" ? (isBack ? "planned" : "moved") : isBack ? "clash" : o.kind));
  const whys = outcomes.map((o) => (o.kind === "moved" ? "" : (o.why ?? "")));
  const kept = await tx.execute<{
    state: string;
    n: number;
  }>(sql`with kept as (update move_step s set state = x.state, why = nullif(x.why, '')
      from unnest(${idArray(outcomes.map((o) => o.step.position))}::int[], ${textArray(states)}::text[], ${textArray(whys)}::text[]) as x(position, state, why)
      where s.plan_id = ${planId} and s.position = x.position and s.state = 'moving' returning s.state)
    select state, count(*)::int as n from kept group by state`);
  const n = (state: string): number => kept.rows.find((r) => r.state === state)?.n ?? 0;
  const done = isBack ? -(n("planned") + n("clash")) : n("moved");
  for (const { step } of moved) {
    if (step.isAside) continue;
    if (step.kind === "file" && step.documentId !== null)
      lines.push({ verb: "moved", who: PROGRAM, documentId: step.documentId, details: { path: step.toPath, plan: planId } });
    else if (step.kind === "folder" && step.recordId !== null)
      lines.push({
        verb: "folderMoved",
        who: PROGRAM,
        recordId: step.recordId,
        details: { from: step.fromPath, to: step.toPath, plan: planId },
      });
  }
  await writeLines(tx, lines);
  // The plan's row last: whoever takes the next steps waits for it.
  await tx.execute(
    sql`update move_plan set done = done + ${done}, failed = failed + ${n("failed")}, clashes = clashes + ${n("clash")} where id = ${planId}`,
  );
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
