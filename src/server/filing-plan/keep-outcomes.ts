import { and, eq, sql } from "drizzle-orm";
import { foldName, foldPath, pathFolder } from "#core/filing-plan/legal-name.ts";
import { db, type Tx } from "../db/connect.ts";
import { pgCode } from "../db/describe-error.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { now } from "../ports/clock.ts";
import { linesOutOf, PROGRAM } from "../timeline/write-lines.ts";
import { isAsTaken, isMoved, isPlanned, nameOf, type Outcome, parentOf, type Step } from "./plan-step.ts";
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
  const moved = outcomes.filter((o) => o.kind === "moved");
  const positions = outcomes.map((o) => o.step.position).sort((a, b) => a - b);
  const [first, last] = [positions[0] ?? 0, positions.at(-1) ?? 0];
  const fold = pathFolder();
  // Worked out once, since there are thousands: what folders are called now, in the order of the outcomes; empty for those that are none.
  const isFolded = outcomes.map(({ step }) => (step.kind === "folder" ? fold(step.toPath) : ""));
  const kept = await keepSteps(tx, planId, outcomes, isFolded, { isBack, first, last });
  await keepBeneath(tx, outcomes, isFolded, fold);
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
}

/**
 * Writes down what did not work, where the folders of the steps are now, and the lines of the timelines, as one statement out of what the database has
 * of the steps. From then on nobody enters a folder beneath one of them. Which steps were moved goes to the plan, as ranges.
 */
async function keepSteps(
  tx: Tx,
  planId: string,
  outcomes: readonly Outcome[],
  isFolded: readonly string[],
  { isBack, first, last }: { readonly isBack: boolean; readonly first: number; readonly last: number },
): Promise<KeptSteps> {
  // What could not be brought back stays where it was brought.
  const trouble = outcomes
    .filter((o) => o.kind !== "moved")
    .map((o) => ({ position: o.step.position, state: isBack ? "clash" : o.kind, why: o.why }));
  const [from, to] = isBack ? [sql`to_path`, sql`from_path`] : [sql`from_path`, sql`to_path`];
  const s = sql`s`;
  const { rows } = await tx.execute<KeptSteps & Record<string, unknown>>(sql`with given as (
      select * from unnest(${idArray(outcomes.map((o) => o.step.position))}::int[], ${textArray(isFolded)}::text[]) as g(position, is_folded)),
    trouble as (select * from json_to_recordset(${JSON.stringify(trouble)}::json) as t(position int, state text, why text)),
    taken as materialized (select s.position, t.state as trouble, t.why, t.position is null as is_moved, s.why is not null as had_why, s.kind, s.is_aside, s.record_id, s.document_id, s.folder_id,
        s.${from} as was, s.${to} as "is", g.is_folded
      from move_step s join given g on g.position = s.position left join trouble t on t.position = s.position
      where s.plan_id = ${planId} and s.position between ${first} and ${last} and ${isBack ? isMoved(planId, s) : isPlanned(planId, s)}),
    states as (update move_step s set state = coalesce(k.trouble, 'planned'), why = k.why from taken k
      where s.plan_id = ${planId} and s.position = k.position and (k.trouble is not null or k.had_why)),
    places as (update folder f set digest = null, path = case when k.is_moved and f.path = k.was then k.is else f.path end,
        path_folded = case when k.is_moved and f.path = k.was then k.is_folded else f.path_folded end
      from taken k where k.kind = 'folder' and f.id = k.folder_id),
    lines as (${linesOutOf(sql`select case kind when 'file' then 'moved' else 'folderMoved' end, ${PROGRAM}::text, null::text, case kind when 'file' then document_id end,
        case kind when 'folder' then record_id end, null::uuid,
        case kind when 'file' then jsonb_build_object('path', k.is, 'plan', ${planId}::text) else jsonb_build_object('from', k.was, 'to', k.is, 'plan', ${planId}::text) end
      from taken k where is_moved and not is_aside and case kind when 'file' then document_id when 'folder' then record_id end is not null`)})
    select count(*) filter (where is_moved)::int as moved, count(trouble)::int as trouble, count(*) filter (where trouble = 'failed')::int as failed,
      count(*) filter (where trouble = 'clash')::int as clashes,
      coalesce(range_agg(int4range(position, position + 1)) filter (where is_moved or ${isBack}), '{}')::text as positions from taken`);
  const kept = rows[0];
  if (!kept) throw new Error("nothing was counted");
  return kept;
}

/** Folders that are looked at for each step, at most, to find those beneath: more when other folders stand between those that moved. */
const LOOKED_AT_EACH = 4;
const LOOKED_AT_LEAST = 200;

/** A folder that moved: its connection, and where it was and is, as written and folded. */
type FolderMoved = Readonly<Record<"connection" | "was" | "is" | "wasFolded" | "isFolded", string>>;

/** What stands beneath folders that moved is where they are now. Every folder that was entered until its own was written down is seen now. */
async function keepBeneath(
  tx: Tx,
  outcomes: readonly Outcome[],
  isFolded: readonly string[],
  fold: (path: string) => string,
): Promise<void> {
  const byConnection = new Map<string, FolderMoved[]>();
  for (const [i, { kind, step }] of outcomes.entries()) {
    if (kind !== "moved" || step.kind !== "folder") continue;
    const { fromConnection: connection, fromPath: was, toPath: is } = step;
    const moved = byConnection.get(connection);
    const one = { connection, was, is, wasFolded: fold(was), isFolded: isFolded[i] ?? "" };
    if (moved) moved.push(one);
    else byConnection.set(connection, [one]);
  }
  for (const moved of byConnection.values()) if (!(await keepBetween(tx, moved))) await keepBeneathEach(tx, moved);
}

/** Letters beyond the first plane: the database orders them by bytes, this language by halves. */
const BEYOND = /[\uD800-\uDFFF]/;

/**
 * Steps stand in the order of their paths: between the first and the last of a chunk hardly any folder is left once they are written down, and those
 * that are beneath one of them are found in one look. Answers whether that was all; not when very many others stand between.
 */
async function keepBetween(tx: Tx, moved: readonly FolderMoved[]): Promise<boolean> {
  let [first, last] = [moved[0]?.wasFolded ?? "", ""];
  for (const { wasFolded } of moved) {
    if (BEYOND.test(wasFolded)) return false;
    if (wasFolded < first) first = wasFolded;
    if (wasFolded > last) last = wasFolded;
  }
  const max = Math.max(LOOKED_AT_LEAST, moved.length * LOOKED_AT_EACH);
  const { rows } = await tx.execute<{ id: number; path: string; folded: string }>(sql`select id, path, path_folded as folded from folder
    where connection = ${moved[0]?.connection ?? ""} and path_folded > ${first} and path_folded < ${`${last}0`} limit ${max}`);
  if (rows.length === max) return false;
  if (rows.length === 0) return true;
  const byPath = new Map(moved.map((m) => [m.wasFolded, m]));
  const beneath = rows.flatMap(({ id, path, folded }) => {
    for (let cut = folded.lastIndexOf("/"); cut > 0; cut = folded.lastIndexOf("/", cut - 1)) {
      const above = byPath.get(folded.slice(0, cut));
      if (above) return [{ id, path: above.is + path.slice(above.was.length), folded: above.isFolded + folded.slice(cut) }];
    }
    return [];
  });
  if (beneath.length > 0)
    await tx.execute(sql`update folder f set path = b.path, path_folded = b.folded
      from jsonb_to_recordset(${JSON.stringify(beneath)}::jsonb) as b(id bigint, path text, folded text) where f.id = b.id`);
  return true;
}

/** Looked for one range of the index after the other: joined at once, every folder would be held against every range. */
async function keepBeneathEach(tx: Tx, moved: readonly FolderMoved[]): Promise<void> {
  const texts = (["connection", "was", "is", "wasFolded", "isFolded"] as const).map(
    (which) => sql`${textArray(moved.map((m) => m[which]))}::text[]`,
  );
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
