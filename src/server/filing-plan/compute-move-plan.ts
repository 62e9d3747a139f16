import { and, eq, sql, type SQL } from "drizzle-orm";
import { assignPlaces, type PlaceWish } from "#core/filing-plan/assign-places.ts";
import { decideFolder, ruleFor } from "#core/filing-plan/decide-folder.ts";
import type { FolderRule } from "#core/filing-plan/folder-rule.ts";
import { numberedName, pathFolder, utf8Bytes } from "#core/filing-plan/legal-name.ts";
import { orderMoves } from "#core/filing-plan/order-moves.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { db } from "../db/connect.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { loadDocumentTypes } from "../records/load-types.ts";
import { planAboutSchema } from "./begin-plan.ts";
import { fileSteps } from "./draw-file-steps.ts";
import { KEPT_AT_ONCE, stepKeeper } from "./keep-steps.ts";
import { loadRules } from "./load-rules.ts";
import { betweenOf, type NewStep, placeAt, type Spot } from "./new-step.ts";
import { listConnectionsInUse, openRepository } from "./open-repository.ts";
import { limitsByKey } from "./preview-rule.ts";
import { DEPTH_MAX } from "./settle-folder.ts";
import { movePlan } from "./tables.ts";

/** First half of the lock on the drawing of one plan. */
const DRAW_LOCK = 730_010;
/** Records whose moves are shown before all are worked out. */
const FIRST_LOOK = 250;

/** Records whose documents are looked at in one go. */
const RECORDS_AT_ONCE = 2000;

interface Row {
  readonly id: number;
  readonly type: string;
  readonly company: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly date: string | null;
  readonly fields: FieldValues;
  readonly parentId: number | null;
  readonly folderId: number | null;
  readonly connection: string | null;
  readonly path: string | null;
  readonly papers: number;
}

/**
 * Draws a plan: compares where everything in its scope stands with where the rules would have it, level by level from the top, and keeps the steps
 * in the order in which they can be carried out. Nothing is moved. Safe to run again: it begins again. Rule: docs/rules.md#moves
 */
export async function computeMovePlan(planId: string): Promise<void> {
  await db().transaction(async (tx) => {
    // A worker that is too busy to say that it lives may have its job given to another: two that draw one plan would take each other's steps away.
    const mine = await tx.execute<{ mine: boolean }>(sql`select pg_try_advisory_xact_lock(${DRAW_LOCK}, hashtext(${planId})) as mine`);
    if (mine.rows[0]?.mine !== true) return;
    // Somebody waits to see what it looks like: a few first, then all of it in their place.
    await drawAlone(planId, FIRST_LOOK);
    await drawAlone(planId, null);
  });
}

async function drawAlone(planId: string, firstLook: number | null): Promise<void> {
  const plan = (await db().select().from(movePlan).where(eq(movePlan.id, planId)))[0];
  if (plan?.state !== "drawing") return;
  const about = planAboutSchema.parse(plan.about);
  if (firstLook !== null && about.recordTypes.length === 0) return;
  const rules = new Map([...(await loadRules())].map(([type, r]) => [type, r.rule]));
  if (about.rule) rules.set(about.rule.recordType, about.rule.rule);
  const inUse = await listConnectionsInUse();
  const limitsFor = limitsByKey(inUse);
  const fold = pathFolder();
  const movesFolders = new Set<string>();
  for (const { key } of inUse) if ((await openRepository(key)).powers.renameFolders) movesFolders.add(key);
  const holders = new Map(
    (
      await db().execute<{ at: string; record_id: number | null }>(
        sql`select connection || '/' || path_folded as at, record_id from folder`,
      )
    ).rows.map((r) => [r.at, r.record_id]),
  );
  const keep = stepKeeper(planId);
  /** Where records' folders will be after the plan; only those that were looked at. */
  const wanted = new Map<number, Spot>();
  /** Whole folders that are renamed, from → to, per level: what is inside goes along. */
  const renames: Map<string, string>[] = [];
  const carriedTo = (connection: string, path: string): string => {
    let at = path;
    for (const level of renames) {
      const steps = at.split("/");
      for (let n = steps.length; n > 0; n--) {
        const to = level.get(`${connection}/${steps.slice(0, n).join("/")}`);
        if (to === undefined) continue;
        at = [to, ...steps.slice(n)].join("/");
        break;
      }
    }
    return at;
  };
  let scope: SQL | null =
    about.recordTypes === "all"
      ? sql`true`
      : about.recordTypes.length > 0
        ? sql`record.type = any(${textArray(about.recordTypes)}::text[])`
        : about.recordIds.length > 0
          ? sql`record.id = any(${idArray(about.recordIds)}::bigint[])`
          : null;
  // Of several types only what has nothing above it: the rest goes by where that will be.
  if (firstLook !== null && (about.recordTypes === "all" || about.recordTypes.length > 1))
    scope = sql`(${scope} and record.above_id is null)`;
  const looked = new Set<number>();
  const filesOf: number[] = [];
  let wave = 0;
  let lookedCount = 0;
  for (let level = 0; scope !== null && level < DEPTH_MAX; level++) {
    const rows = (await loadRows(scope, firstLook)).filter((r) => !looked.has(r.id));
    // With whole types, those that have another of the scope above them wait for the level below it.
    const here = new Set(rows.map((r) => r.id));
    const now = rows.filter((r) => r.parentId === null || !here.has(r.parentId) || !isInside(r, rules));
    if (now.length === 0) break;
    for (const r of now) looked.add(r.id);
    const wishes: PlaceWish[] = [];
    const spots = await currentSpots(now.flatMap((r) => (r.parentId === null || wanted.has(r.parentId) ? [] : [r.parentId])));
    const byId = new Map<
      number,
      { readonly row: Row; readonly current: Spot; readonly connection: string; readonly last: readonly string[] }
    >();
    for (const row of now) {
      const rule = rules.get(row.type);
      if (!rule || row.folderId === null || row.path === null || row.connection === null) continue;
      const holds = ruleFor(row, rule);
      const limits = limitsFor(holds.connection);
      const parent = row.parentId === null || !holds.inside ? null : (wanted.get(row.parentId) ?? spots.get(row.parentId) ?? null);
      const proposal = decideFolder(row, rule, parent === null ? null : parent.path.split("/"), limits);
      const current = { connection: row.connection, path: carriedTo(row.connection, row.path) };
      byId.set(row.id, { row, current, connection: holds.connection, last: proposal.toldApart ?? proposal.segments });
      wishes.push({
        id: row.id,
        current: `${current.connection}/${fold(current.path)}`,
        wanted: proposal.toldApart
          ? [placeAt(holds.connection, proposal.segments.join("/"), fold), placeAt(holds.connection, proposal.toldApart.join("/"), fold)]
          : [placeAt(holds.connection, proposal.segments.join("/"), fold)],
      });
    }
    const places = assignPlaces(
      wishes,
      (folded) => {
        const holder = holders.get(folded);
        return holder !== undefined && (holder === null || !byId.has(holder));
      },
      (id, n) => {
        const { connection, last } = byId.get(id) ?? { connection: "", last: [] };
        return placeAt(connection, [...last.slice(0, -1), numberedName(last.at(-1) ?? "", "", n, limitsFor(connection))].join("/"), fold);
      },
    );
    const movers: { readonly id: number; readonly from: string; readonly to: string }[] = [];
    const next: number[] = [];
    const steps: NewStep[] = [];
    const renamed = new Map<string, string>();
    for (const [id, place] of places) {
      const found = byId.get(id);
      if (!found) continue;
      const { row, current, connection } = found;
      const to = { connection, path: place.path };
      if (current.connection === to.connection && current.path === to.path) {
        wanted.set(id, to);
        continue;
      }
      if (utf8Bytes(to.path) > limitsFor(connection).pathBytesMax) {
        wanted.set(id, current);
        steps.push({
          ...stepOf(row, current, to),
          kind: "folder",
          fromFolded: fold(current.path),
          toFolded: fold(to.path),
          wave,
          foundBy: place.by,
          state: "clash",
          why: "path-too-long",
        });
        continue;
      }
      wanted.set(id, to);
      next.push(id);
      if (current.connection === to.connection && movesFolders.has(connection)) {
        movers.push({ id, from: `${connection}/${fold(current.path)}`, to: place.folded });
        renamed.set(`${connection}/${current.path}`, to.path);
      } else {
        steps.push({ ...stepOf(row, current, to), kind: "own", wave, foundBy: place.by });
        filesOf.push(id);
      }
    }
    let last = wave;
    for (const step of orderMoves(movers)) {
      const found = byId.get(step.id);
      const place = places.get(step.id);
      if (!found || !place) continue;
      const wanted = { connection: found.connection, path: place.path };
      const [from, to] = betweenOf(step, found.current, wanted, planId);
      last = Math.max(last, wave + step.wave);
      if (steps.length >= KEPT_AT_ONCE) await keep.add(steps.splice(0));
      steps.push({
        ...stepOf(found.row, from, to),
        kind: "folder",
        fromFolded: fold(from.path),
        toFolded: fold(to.path),
        wave: wave + step.wave,
        foundBy: place.by,
        isAside: step.kind === "aside",
        // What goes aside is counted once, when it arrives.
        ...(step.kind === "aside" ? { documents: 0 } : {}),
      });
    }
    if (renamed.size > 0) renames.push(renamed);
    lookedCount += now.length;
    await keep.add(steps);
    await keep.flush(lookedCount);
    wave = last + 1;
    if (firstLook !== null) return;
    if (level === 0) filesOf.push(...rows.map((r) => r.id));
    // What is beneath those that move has to be looked at too; and the rest of a scope of types.
    const rest = rows.filter((r) => !looked.has(r.id)).map((r) => r.id);
    const beneath = [...next, ...rest];
    scope =
      beneath.length === 0 ? null : sql`(record.above_id = any(${idArray(next)}::bigint[]) or record.id = any(${idArray(rest)}::bigint[]))`;
  }
  const types = new Map((await loadDocumentTypes()).map((t) => [t.key, t]));
  const inScope = [...new Set(filesOf)];
  const parts: SQL[] = [];
  for (let at = 0; at < inScope.length; at += RECORDS_AT_ONCE)
    parts.push(sql`c.record_id = any(${idArray(inScope.slice(at, at + RECORDS_AT_ONCE))}::bigint[])`);
  if (about.documentIds.length > 0) parts.push(sql`d.id = any(${idArray(about.documentIds)}::bigint[])`);
  for (const part of parts) {
    await keep.add(await fileSteps(planId, part, { rules, limitsFor, wanted, carriedTo, holders, fold, types, wave }));
    await keep.flush(lookedCount);
  }
  await keep.end(lookedCount);
  await db()
    .update(movePlan)
    .set({ state: "drawn" })
    .where(and(eq(movePlan.id, planId), eq(movePlan.state, "drawing")));
}

/** Says on a plan that it could not be drawn. */
export async function giveUpDrawing(planId: string, why: string): Promise<void> {
  await db()
    .update(movePlan)
    .set({ state: "dropped", why })
    .where(and(eq(movePlan.id, planId), eq(movePlan.state, "drawing")));
}

function isInside(row: Row, rules: ReadonlyMap<string, FolderRule>): boolean {
  const rule = rules.get(row.type);
  return rule !== undefined && ruleFor(row, rule).inside !== null;
}

function stepOf(row: Row, from: Spot, to: Spot): Omit<NewStep, "kind" | "wave"> {
  return {
    recordId: row.id,
    folderId: row.folderId,
    fromConnection: from.connection,
    fromPath: from.path,
    toConnection: to.connection,
    toPath: to.path,
    shownFrom: row.path ?? from.path,
    documents: row.papers,
  };
}

/** Where the folders of some records stand, asked for all at once. */
async function currentSpots(recordIds: readonly number[]): Promise<ReadonlyMap<number, Spot>> {
  if (recordIds.length === 0) return new Map();
  const found = await db().execute<{ record_id: number; connection: string; path: string }>(
    sql`select record_id, connection, path from own_folder where record_id = any(${idArray([...new Set(recordIds)])}::bigint[])`,
  );
  return new Map(found.rows.map((f) => [f.record_id, { connection: f.connection, path: f.path }]));
}

async function loadRows(scope: SQL, limit: number | null): Promise<readonly Row[]> {
  const rows = await db().execute<{
    id: number;
    type: string;
    company: string;
    key: string;
    title: string;
    status: string | null;
    date: string | null;
    fields: FieldValues;
    above_id: number | null;
    folder_id: number;
    connection: string;
    path: string;
    papers: number;
  }>(sql`with chosen as materialized (select record.id from record join record_folder f on f.record_id = record.id and f.is_own where ${scope} order by record.id limit ${limit}),
      papers as (select f.record_id, count(*)::int as n from placement p join record_folder f on f.folder_id = p.folder_id where f.record_id in (select id from chosen) group by f.record_id)
    select record.id, record.type, record.company, record.key, record.title, record.status, record.date, record.fields, record.above_id,
      f.folder_id, f.connection, f.path, coalesce(papers.n, 0) as papers
    from chosen join record on record.id = chosen.id join own_folder f on f.record_id = record.id
      left join papers on papers.record_id = record.id order by record.id`);
  return rows.rows.map((r) => ({ ...r, parentId: r.above_id, folderId: r.folder_id }));
}
