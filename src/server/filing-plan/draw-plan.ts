import { and, eq, sql, type SQL } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { assignPlaces, type PlaceWish } from "#core/filing-plan/assign-places.ts";
import { decideFileName, decideSubFolder, filePatternOf } from "#core/filing-plan/decide-file-name.ts";
import { decideFolder, ruleFor } from "#core/filing-plan/decide-folder.ts";
import { checkFolderRule, type FolderRule, folderRuleSchema } from "#core/filing-plan/folder-rule.ts";
import { endingOf, foldName, foldPath, numberedName, utf8Bytes } from "#core/filing-plan/legal-name.ts";
import { orderMoves } from "#core/filing-plan/order-moves.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { documentCodeOf } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentTypes, loadRecordType, loadRecordTypes } from "../records/load-types.ts";
import { enterPlan } from "./enter-plan.ts";
import { loadRules } from "./load-plan.ts";
import { listConnectionsInUse, openRepository } from "./open-repository.ts";
import { limitsByKey } from "./preview-rule.ts";
import { DEPTH_MAX } from "./settle-folder.ts";
import { movePlan, moveStep } from "./tables.ts";

/** What a plan is about. */
export const planAboutSchema = z.object({
  /** Record types whose records are looked at; all with "all". */
  recordTypes: z.union([z.literal("all"), z.array(z.string())]).default([]),
  recordIds: z.array(z.number().int()).default([]),
  documentIds: z.array(z.number().int()).default([]),
  /** A rule that is not in force yet: the plan is drawn by it, and it is saved when the plan begins. */
  rule: z.object({ recordType: z.string(), version: z.number().int(), rule: folderRuleSchema }).nullable().default(null),
  /** The rule that was in force before; undoing the plan brings it back. */
  ruleBefore: folderRuleSchema.nullable().default(null),
});
export type PlanAbout = z.infer<typeof planAboutSchema>;
export type PlanCause = "rule" | "record" | "document" | "outOfStep";

/** First half of the lock on the drawing of one plan. */
const DRAW_LOCK = 730_010;
/** Steps kept in one statement. */
const KEPT_AT_ONCE = 1000;
/** Up to so many folders what goes along is counted to the last paper; beyond that only what stands in them directly. */
const COUNTED_MAX = 3000;
/** Records whose papers are looked at in one go. */
const RECORDS_AT_ONCE = 2000;

/** Begins a move plan for a changed folder rule: it is drawn in the background and shown as it grows. Refuses not-allowed, unknown-type, bad-input. */
export async function planRule(actor: Actor, recordType: string, rule: FolderRule, version: number): Promise<Result<{ id: string }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const type = await loadRecordType(recordType);
  if (!type) return refuse("unknown-type");
  const errors = checkFolderRule(rule, type, {
    connections: (await listConnectionsInUse()).map((c) => c.key),
    documentTypes: (await loadDocumentTypes()).map((t) => t.key),
  });
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  const inForce = (await loadRules(db(), [recordType])).get(recordType);
  if ((inForce?.version ?? 0) !== version) return refuse("stale");
  const about = planAboutSchema.parse({
    recordTypes: [recordType],
    rule: { recordType, version, rule },
    ruleBefore: inForce?.rule ?? null,
  });
  return ok({ id: await beginPlan(actor, "rule", type.plural, about) });
}

/** Begins a plan for everything of some record types (or all) that does not stand where the filing plan would have it. */
export async function planOutOfStep(actor: Actor, recordTypes: "all" | readonly string[]): Promise<Result<{ id: string }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const types = await loadRecordTypes();
  const label =
    recordTypes === "all"
      ? "everything out of step"
      : types
          .filter((t) => recordTypes.includes(t.key))
          .map((t) => t.plural)
          .join(", ");
  const about = planAboutSchema.parse({ recordTypes: recordTypes === "all" ? "all" : [...recordTypes] });
  return ok({ id: await beginPlan(actor, "outOfStep", label, about) });
}

/** Enters a plan and queues its drawing. */
export async function beginPlan(actor: Actor, cause: PlanCause, label: string, about: PlanAbout): Promise<string> {
  return db().transaction(async (tx) => {
    const id = await enterPlan(tx, actor, cause, label, about);
    await addJob(tx, "drawPlan", { plan: id }, { key: `draw:${id}`, priority: -1 });
    return id;
  });
}

/** A step before it is kept. */
type NewStep = Omit<typeof moveStep.$inferInsert, "planId" | "position">;
interface Spot {
  readonly connection: string;
  readonly path: string;
}
interface Row {
  readonly id: number;
  readonly type: string;
  readonly company: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly date: string | null;
  readonly fields: FieldValues;
  readonly aboveId: number | null;
  readonly folderId: number | null;
  readonly connection: string | null;
  readonly path: string | null;
  readonly papers: number;
}

/**
 * Draws a plan: compares where everything in its scope stands with where the rules would have it, level by level from the top, and keeps the steps
 * in the order in which they can be carried out. Nothing is moved. Safe to run again: it begins anew. Rule: docs/rules.md#moves
 */
export async function drawPlan(planId: string): Promise<void> {
  await db().transaction(async (tx) => {
    // A worker that is too busy to say that it lives may have its job given to another: two that draw one plan would take each other's steps away.
    const mine = await tx.execute<{ mine: boolean }>(sql`select pg_try_advisory_xact_lock(${DRAW_LOCK}, hashtext(${planId})) as mine`);
    if (mine.rows[0]?.mine === true) await drawAlone(planId);
  });
}

async function drawAlone(planId: string): Promise<void> {
  const plan = (await db().select().from(movePlan).where(eq(movePlan.id, planId)))[0];
  if (plan?.state !== "drawing") return;
  const about = planAboutSchema.parse(plan.about);
  await db().delete(moveStep).where(eq(moveStep.planId, planId));
  const rules = new Map([...(await loadRules())].map(([type, r]) => [type, r.rule]));
  if (about.rule) rules.set(about.rule.recordType, about.rule.rule);
  const limitsFor = limitsByKey(await listConnectionsInUse());
  const powers = new Map<string, boolean>();
  const movesFolders = async (key: string): Promise<boolean> => {
    const known = powers.get(key) ?? (await openRepository(key)).powers.renameFolders;
    powers.set(key, known);
    return known;
  };
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
        ? sql`record.type = any(${`{${about.recordTypes.map((t) => `"${t}"`).join(",")}}`}::text[])`
        : about.recordIds.length > 0
          ? sql`record.id = any(${`{${about.recordIds.join(",")}}`}::bigint[])`
          : null;
  const looked = new Set<number>();
  const filesOf: number[] = [];
  let wave = 0;
  let lookedCount = 0;
  for (let level = 0; scope !== null && level < DEPTH_MAX; level++) {
    const rows = (await loadRows(scope)).filter((r) => !looked.has(r.id));
    // With whole types, those that have another of the scope above them wait for the level below it.
    const here = new Set(rows.map((r) => r.id));
    const now = rows.filter((r) => r.aboveId === null || !here.has(r.aboveId) || !isInside(r, rules));
    if (now.length === 0) break;
    for (const r of now) looked.add(r.id);
    const wishes: PlaceWish[] = [];
    const spots = await currentSpots(now.flatMap((r) => (r.aboveId === null || wanted.has(r.aboveId) ? [] : [r.aboveId])));
    const byId = new Map<number, { readonly row: Row; readonly current: Spot | null; readonly connection: string }>();
    for (const row of now) {
      const rule = rules.get(row.type);
      if (!rule || row.folderId === null || row.path === null || row.connection === null) continue;
      const holds = ruleFor(row, rule);
      const limits = limitsFor(holds.connection);
      const above = row.aboveId === null || !holds.inside ? null : (wanted.get(row.aboveId) ?? spots.get(row.aboveId) ?? null);
      const proposal = decideFolder(row, rule, above === null ? null : above.path.split("/"), limits);
      const placeOf = (segments: readonly string[]) => ({ path: segments.join("/"), folded: `${holds.connection}/${foldPath(segments)}` });
      const last = proposal.toldApart ?? proposal.segments;
      const current = { connection: row.connection, path: carriedTo(row.connection, row.path) };
      byId.set(row.id, { row, current, connection: holds.connection });
      wishes.push({
        id: row.id,
        current: `${current.connection}/${foldPath(current.path.split("/"))}`,
        wanted: [placeOf(proposal.segments), ...(proposal.toldApart ? [placeOf(proposal.toldApart)] : [])],
        numbered: (n) => placeOf([...last.slice(0, -1), numberedName(last.at(-1) ?? "", "", n, limits)]),
      });
    }
    const places = assignPlaces(wishes, (folded) => {
      const holder = holders.get(folded);
      return holder !== undefined && (holder === null || !byId.has(holder));
    });
    const movers: { readonly id: number; readonly from: string; readonly to: string }[] = [];
    const next: number[] = [];
    const steps: NewStep[] = [];
    const renamed = new Map<string, string>();
    for (const [id, place] of places) {
      const found = byId.get(id);
      if (!found?.current) continue;
      const { row, current, connection } = found;
      const to = { connection, path: place.path };
      if (current.connection === to.connection && current.path === to.path) {
        wanted.set(id, to);
        continue;
      }
      if (utf8Bytes(to.path) > limitsFor(connection).pathBytesMax) {
        wanted.set(id, current);
        steps.push({ ...stepOf(row, current, to), kind: "folder", wave, foundBy: place.by, state: "clash", why: "path-too-long" });
        continue;
      }
      wanted.set(id, to);
      next.push(id);
      if (current.connection === to.connection && (await movesFolders(connection))) {
        movers.push({ id, from: `${connection}/${foldPath(current.path.split("/"))}`, to: place.folded });
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
      if (!found?.current || !place) continue;
      const aside = { connection: found.connection, path: asidePath(planId, found.current.path, found.row.id) };
      const from = step.kind === "in" ? aside : found.current;
      const to = step.kind === "aside" ? aside : { connection: found.connection, path: place.path };
      last = Math.max(last, wave + step.wave);
      steps.push({
        ...stepOf(found.row, from, to),
        kind: "folder",
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
    if (level === 0) filesOf.push(...rows.map((r) => r.id));
    // What is beneath those that move has to be looked at too; and the rest of a scope of types.
    const rest = rows.filter((r) => !looked.has(r.id)).map((r) => r.id);
    const beneath = [...next, ...rest];
    scope =
      beneath.length === 0
        ? null
        : sql`(record.above_id = any(${`{${next.join(",")}}`}::bigint[]) or record.id = any(${`{${rest.join(",")}}`}::bigint[]))`;
  }
  const types = new Map((await loadDocumentTypes()).map((t) => [t.key, t]));
  const inScope = [...new Set(filesOf)];
  const parts: SQL[] = [];
  for (let at = 0; at < inScope.length; at += RECORDS_AT_ONCE)
    parts.push(sql`c.record_id = any(${`{${inScope.slice(at, at + RECORDS_AT_ONCE).join(",")}}`}::bigint[])`);
  if (about.documentIds.length > 0) parts.push(sql`d.id = any(${`{${about.documentIds.join(",")}}`}::bigint[])`);
  for (const part of parts) {
    await keep.add(await fileSteps(planId, part, { rules, limitsFor, wanted, carriedTo, holders, types, wave }));
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

/** A temporary name beside a place, the same each time it is asked for. */
function asidePath(planId: string, path: string, id: number): string {
  const cut = path.lastIndexOf("/");
  const name = `.${planId.slice(0, 24)}${id.toString(16).padStart(12, "0").slice(-12)}.moving`;
  return cut === -1 ? name : `${path.slice(0, cut)}/${name}`;
}

/** Where the folders of some records stand, asked for all at once. */
async function currentSpots(recordIds: readonly number[]): Promise<ReadonlyMap<number, Spot>> {
  if (recordIds.length === 0) return new Map();
  const found = await db().execute<{ record_id: number; connection: string; path: string }>(
    sql`select record_id, connection, path from folder where kind = 'record' and record_id = any(${`{${[...new Set(recordIds)].join(",")}}`}::bigint[])`,
  );
  return new Map(found.rows.map((f) => [f.record_id, { connection: f.connection, path: f.path }]));
}

async function loadRows(scope: SQL): Promise<readonly Row[]> {
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
  }>(sql`with papers as (select f.record_id, count(*)::int as n from placement p join folder f on f.id = p.folder_id group by f.record_id)
    select record.id, record.type, record.company, record.key, record.title, record.status, record.date, record.fields, record.above_id,
      f.id as folder_id, f.connection, f.path, coalesce(papers.n, 0) as papers
    from record join folder f on f.record_id = record.id and f.kind = 'record' left join papers on papers.record_id = record.id
    where ${scope} order by record.id`);
  return rows.rows.map((r) => ({ ...r, aboveId: r.above_id, folderId: r.folder_id }));
}

interface Drawn {
  readonly rules: ReadonlyMap<string, FolderRule>;
  readonly limitsFor: ReturnType<typeof limitsByKey>;
  readonly wanted: ReadonlyMap<number, Spot>;
  readonly carriedTo: (connection: string, path: string) => string;
  readonly holders: ReadonlyMap<string, number | null>;
  readonly types: ReadonlyMap<string, { readonly label: string; readonly plural: string }>;
  readonly wave: number;
}

/** Steps of single files: those whose name, sub-folder or record's folder is another than the one they stand in. */
async function fileSteps(planId: string, scope: SQL, drawn: Drawn): Promise<readonly NewStep[]> {
  const rows = await db().execute<{
    id: number;
    document_type: string;
    title: string;
    properties: FieldValues;
    filed_on: string;
    current_version: number;
    section: string | null;
    name: string;
    folder_id: number;
    connection: string;
    folder_path: string;
    record_id: number;
    type: string;
    company: string;
    key: string;
    record_title: string;
    status: string | null;
    date: string | null;
    fields: FieldValues;
    own_connection: string | null;
    own_path: string | null;
  }>(sql`select d.id, d.document_type, d.title, d.properties, to_char(d.filed_at, 'YYYY-MM-DD') as filed_on, d.current_version, c.section,
      p.name, p.folder_id, f.connection, f.path as folder_path, r.id as record_id, r.type, r.company, r.key, r.title as record_title, r.status, r.date, r.fields,
      own.connection as own_connection, own.path as own_path
    from clip c join document d on d.id = c.document_id join placement p on p.document_id = d.id join folder f on f.id = p.folder_id
      join record r on r.id = c.record_id left join folder own on own.record_id = r.id and own.kind = 'record'
    where c.position = 0 and ${scope} order by d.id`);
  const wishes: PlaceWish[] = [];
  const byId = new Map<number, { readonly row: (typeof rows.rows)[number]; readonly from: Spot; readonly connection: string }>();
  for (const row of rows.rows) {
    const rule = drawn.rules.get(row.type);
    const own =
      drawn.wanted.get(row.record_id) ??
      (row.own_path === null || row.own_connection === null
        ? null
        : { connection: row.own_connection, path: drawn.carriedTo(row.own_connection, row.own_path) });
    if (!rule || !own) continue;
    const limits = drawn.limitsFor(own.connection);
    const type = drawn.types.get(row.document_type);
    const document = {
      documentType: type?.label ?? row.document_type,
      title: row.title,
      code: documentCodeOf(row.id),
      filedOn: row.filed_on,
      version: row.current_version,
      properties: row.properties,
    };
    const record = { company: row.company, key: row.key, title: row.record_title, status: row.status, date: row.date, fields: row.fields };
    const ending = endingOf(row.name);
    const name = decideFileName(filePatternOf(rule, row.document_type), document, record, ending, limits);
    const within = decideSubFolder(rule, { section: row.section, typePlural: type?.plural ?? row.document_type }, limits);
    const folder = [own.path, ...within].filter((s) => s !== "").join("/");
    const folderFolded = `${own.connection}/${foldPath(folder.split("/"))}`;
    const placeOf = (n: string) => ({ path: `${folder}/${n}`, folded: `${folderFolded}/${foldName(n)}` });
    const from = { connection: row.connection, path: `${drawn.carriedTo(row.connection, row.folder_path)}/${row.name}` };
    byId.set(row.id, { row, from, connection: own.connection });
    wishes.push({
      id: row.id,
      current: `${from.connection}/${foldPath(from.path.split("/"))}`,
      wanted: [placeOf(name)],
      numbered: (n) => placeOf(numberedName(name, ending, n, limits)),
    });
  }
  const others = await namesOfOthers(wishes, byId);
  const places = assignPlaces(wishes, (folded) => drawn.holders.has(folded) || others.has(folded));
  const movers: { readonly id: number; readonly from: string; readonly to: string }[] = [];
  const steps: NewStep[] = [];
  const about = (id: number, from: Spot, to: Spot, by: string): Omit<NewStep, "wave"> => {
    const row = byId.get(id)?.row;
    return {
      kind: "file",
      recordId: row?.record_id ?? null,
      documentId: id,
      folderId: row?.folder_id ?? null,
      fromConnection: from.connection,
      fromPath: from.path,
      toConnection: to.connection,
      toPath: to.path,
      shownFrom: `${row?.folder_path}/${row?.name}`,
      documents: 1,
      foundBy: by,
    };
  };
  for (const [id, place] of places) {
    const found = byId.get(id);
    if (!found || (found.from.connection === found.connection && found.from.path === place.path)) continue;
    if (utf8Bytes(place.path) > drawn.limitsFor(found.connection).pathBytesMax)
      steps.push({
        ...about(id, found.from, { connection: found.connection, path: place.path }, place.by),
        wave: drawn.wave,
        state: "clash",
        why: "path-too-long",
      });
    else movers.push({ id, from: `${found.from.connection}/${foldPath(found.from.path.split("/"))}`, to: place.folded });
  }
  for (const step of orderMoves(movers)) {
    const found = byId.get(step.id);
    const place = places.get(step.id);
    if (!found || !place) continue;
    const aside = { connection: found.from.connection, path: asidePath(planId, found.from.path, step.id) };
    const from = step.kind === "in" ? aside : found.from;
    const to = step.kind === "aside" ? aside : { connection: found.connection, path: place.path };
    steps.push({
      ...about(step.id, from, to, place.by),
      wave: drawn.wave + step.wave,
      isAside: step.kind === "aside",
      ...(step.kind === "aside" ? { documents: 0 } : {}),
    });
  }
  return steps;
}

/** Names in the folders that files go to which belong to documents that are not looked at here. */
async function namesOfOthers(wishes: readonly PlaceWish[], known: ReadonlyMap<number, unknown>): Promise<ReadonlySet<string>> {
  const folders = [...new Set(wishes.flatMap((w) => w.wanted.map((p) => p.folded.slice(0, p.folded.lastIndexOf("/")))))];
  const rows = await db().execute<{
    at: string;
    id: number;
  }>(sql`select f.connection || '/' || f.path_folded || '/' || x.name_folded as at, x.document_id as id
    from folder f join (select folder_id, document_id, name_folded from placement union all select folder_id, document_id, name_folded from pointer) x on x.folder_id = f.id
    where (f.connection, f.path_folded) in (select split_part(u, '/', 1), substr(u, strpos(u, '/') + 1) from unnest(${textArray(folders)}::text[]) u)`);
  return new Set(rows.rows.filter((r) => !known.has(r.id)).map((r) => r.at));
}

/** Keeps steps in batches with their positions, and the plan's counts with them. */
function stepKeeper(planId: string) {
  let position = 0;
  let batch: (typeof moveStep.$inferInsert)[] = [];
  const counts = { steps: 0, clashes: 0, documents: 0, folders: 0 };
  const write = async (): Promise<void> => {
    for (let at = 0; at < batch.length; at += KEPT_AT_ONCE) {
      const rows = batch.slice(at, at + KEPT_AT_ONCE).map((s) => ({
        plan_id: s.planId,
        position: s.position,
        wave: s.wave,
        kind: s.kind,
        is_aside: s.isAside ?? false,
        record_id: s.recordId ?? null,
        document_id: s.documentId ?? null,
        folder_id: s.folderId ?? null,
        from_connection: s.fromConnection,
        from_path: s.fromPath,
        to_connection: s.toConnection,
        to_path: s.toPath,
        shown_from: s.shownFrom,
        documents: s.documents ?? 0,
        found_by: s.foundBy ?? "name",
        state: s.state ?? "planned",
        why: s.why ?? null,
      }));
      // One parameter for a thousand steps: many times faster than one for each value.
      await db().execute(
        sql`insert into move_step select * from jsonb_populate_recordset(null::move_step, ${JSON.stringify(rows)}::jsonb)`,
      );
    }
    batch = [];
  };
  const tell = (looked: number): Promise<unknown> =>
    db()
      .update(movePlan)
      .set({ ...counts, looked })
      .where(eq(movePlan.id, planId));
  return {
    async add(steps: readonly NewStep[]): Promise<void> {
      for (const s of steps) {
        batch.push({ ...s, planId, position: position++ });
        counts.steps++;
        if (s.state === "clash") counts.clashes++;
        else {
          counts.documents += s.documents ?? 0;
          if (s.kind !== "file" && s.isAside !== true) counts.folders++;
        }
        if (batch.length >= KEPT_AT_ONCE) await write();
      }
    },
    async flush(looked: number): Promise<void> {
      await write();
      await tell(looked);
    },
    async end(looked: number): Promise<void> {
      await write();
      await db().execute(sql`analyze move_step`);
      // Whole folders take along what stands in folders within them, of other records too.
      if (counts.folders > 0 && counts.folders <= COUNTED_MAX) {
        await db().execute(sql`update move_step s set documents = (select count(*) from folder f join placement p on p.folder_id = f.id
            where f.connection = s.from_connection and (f.path = s.shown_from or f.path_folded >= own.path_folded || '/' and f.path_folded < own.path_folded || '0'))
          from folder own where s.plan_id = ${planId} and s.kind = 'folder' and not s.is_aside and own.id = s.folder_id`);
        const total = await db().execute<{
          n: number;
        }>(sql`select count(distinct p.document_id)::int as n from move_step s join folder own on own.id = s.folder_id
          join folder f on f.connection = own.connection and (f.id = own.id or f.path_folded >= own.path_folded || '/' and f.path_folded < own.path_folded || '0')
          join placement p on (p.folder_id = f.id and s.kind = 'folder') or (p.document_id = s.document_id)
          where s.plan_id = ${planId} and s.state <> 'clash' and (s.kind = 'folder' or f.id = own.id)`);
        counts.documents = total.rows[0]?.n ?? counts.documents;
      }
      await tell(looked);
    },
  };
}
