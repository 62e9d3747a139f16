import { eq, inArray, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsDocument, allowsRecord } from "#core/access/grants.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import { decideSection } from "#core/sections/place-papers.ts";
import { endingOf, withoutNumber } from "#core/filing-plan/legal-name.ts";
import { isCalendarDay } from "#core/records/parse-field-values.ts";
import { decideReach } from "#core/reach/reach.ts";
import type { FieldValues, RecordType } from "#core/records/record-type.ts";
import { type DocumentCode, documentCodeOf } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { internClass } from "../access/class-bits.ts";
import { documentFilter } from "../access/filters.ts";
import { accessClass } from "../access/tables.ts";
import { enterChildDocuments } from "../clips/refresh-child-documents.ts";
import { clip } from "../clips/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { moveNow, type MovedNow } from "../filing-plan/move-now.ts";
import { settleFolder } from "../filing-plan/settle-folder.ts";
import { settlePlace } from "../filing-plan/settle-place.ts";
import { place as placeView } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { enqueueCheck } from "../automatic-filing/enqueue-check.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadSections, sectionFor } from "../sections/load-tree.ts";
import { agreeToReach } from "../reach/reach.ts";
import { loadReachSettings } from "../settings/load-settings.ts";
import { loadDocumentType, loadRecordTypes } from "../records/load-types.ts";
import { record } from "../records/tables.ts";
import { wantPointers } from "../repository/carry-pointers.ts";
import { type NewLine, writeLines } from "../timeline/write-lines.ts";
import { filingSchema, findClipRecord } from "./file-away.ts";
import { isTitleSaid, titleByPattern } from "./follow-title.ts";
import { document } from "./tables.ts";

/** What is to be different about a document; what is left out stays as it is. */
export const changeSchema = z.object({
  /** Null lets the title follow its type's pattern again. */
  title: z.string().trim().min(1).max(200).nullable().optional(),
  documentType: z.string().min(1).max(40).optional(),
  properties: z.record(z.string(), z.unknown()).optional(),
  clips: filingSchema.shape.clips.min(1).optional(),
  showsOnMany: filingSchema.shape.showsOnMany,
  /** Says what would move and changes nothing. */
  dryRun: z.boolean().default(false),
});
export type DocumentChange = z.infer<typeof changeSchema>;

/** What a change did, and the move it causes. */
export interface ChangedDocument {
  readonly code: string;
  readonly title: string;
  readonly move: { readonly from: string; readonly to: string; readonly state: string; readonly plan: string | null } | null;
}

/**
 * Changes a document's title, type, properties or clips, and moves its file to where the filing plan has it then. With `dryRun` it says what would
 * move. Refuses not-found, not-allowed, unknown-type, unknown-record, bad-input, no-folder-rule, path-too-long, reaches-many (not agreed to).
 */
export async function changeDocument(actor: Actor, code: DocumentCode, change: DocumentChange): Promise<Result<ChangedDocument>> {
  const filter = await documentFilter(actor);
  const changed = await db().transaction((tx) => changeIn(tx, actor, code, change, filter));
  if (!changed.ok) return changed;
  const { id, title, from, to } = changed.value;
  if (change.dryRun) return ok({ code, title, move: to === null || to === from ? null : { from, to, state: "planned", plan: null } });
  const moved: Result<MovedNow | null> = await moveNow(actor, "document", title, { documentIds: [id] });
  if (!moved.ok) return moved;
  const at = (await db().select({ path: placeView.path, state: placeView.state }).from(placeView).where(eq(placeView.documentId, id)))[0];
  return ok({
    code,
    title,
    move: moved.value === null ? null : { from, to: at?.path ?? to ?? from, state: at?.state ?? "moving", plan: moved.value.plan },
  });
}

async function changeIn(
  tx: Tx,
  actor: Actor,
  code: DocumentCode,
  change: DocumentChange,
  filter: Awaited<ReturnType<typeof documentFilter>>,
): Promise<Result<{ id: number; title: string; from: string; to: string | null }>> {
  const found = (
    await tx
      .select({ document, cls: accessClass })
      .from(document)
      .innerJoin(accessClass, eq(accessClass.id, document.aclId))
      .where(sql`${eq(document.code, code)} and ${document.unfiledAt} is null and ${filter}`)
      .for("update", { of: document })
  )[0];
  if (!found) return refuse("not-found");
  const was = found.document;
  if (!allowsDocument(actor.grants, "file", found.cls)) return refuse("not-allowed");
  const type = await loadDocumentType(change.documentType ?? was.documentType, tx);
  if (!type) return refuse("unknown-type", change.documentType);
  const checked = fieldValuesSchema(type.properties, { partial: change.properties === undefined }).safeParse(
    change.properties ??
      keptProperties(
        was.properties as FieldValues,
        type.properties.map((p) => p.key),
      ),
  );
  if (!checked.success)
    return refuse(
      "bad-input",
      undefined,
      checked.error.issues.map((i) => ({ path: `properties.${i.path.join(".")}`, message: i.message })),
    );
  const said = checked.data["documentDate"];
  const paper = {
    documentType: type.key,
    documentDate: typeof said === "string" && isCalendarDay(said) ? said : was.documentDate,
    properties: checked.data,
  };
  const before = await tx
    .select({ record, section: clip.section, reach: clip.reach, note: clip.note, madeAt: clip.madeAt, madeBy: clip.madeBy })
    .from(clip)
    .innerJoin(record, eq(record.id, clip.recordId))
    .where(eq(clip.documentId, was.id))
    .orderBy(clip.position);
  const clips: { record: typeof record.$inferSelect; section: string | null; reach: readonly string[]; note: string | null }[] = [];
  const settings = await loadReachSettings(tx);
  if (change.clips === undefined) clips.push(...before);
  else
    for (const wish of change.clips) {
      const there = await findClipRecord(tx, actor, { company: was.company, ...wish }, was.company);
      if (!there) return refuse("unknown-record", `${wish.type} ${wish.key}`);
      if (!clips.some((c) => c.record.id === there.id)) {
        // One that was clipped before stays in its section, with its reach and note; a new one goes where the rules put it.
        const was = before.find((b) => b.record.id === there.id);
        clips.push({
          record: there,
          section: wish.section ?? (was ? was.section : await sectionFor(tx, there, undefined, paper)),
          reach: was && wish.reach === undefined ? was.reach : decideReach(wish.reach, settings, type.key, there.type),
          note: wish.note === undefined ? (was?.note ?? null) : wish.note || null,
        });
      }
    }
  // A document that stood where the rules had put it follows them when it is something else now.
  const wasPaper = { documentType: was.documentType, documentDate: was.documentDate, properties: was.properties as FieldValues };
  const follows: { readonly recordId: number; readonly to: string | null }[] = [];
  for (const c of clips) {
    const { tree } = await loadSections(tx, c.record);
    if (!before.some((b) => b.record.id === c.record.id) || c.section !== decideSection(tree, wasPaper)) continue;
    const to = decideSection(tree, paper);
    if (to !== c.section) follows.push({ recordId: c.record.id, to });
    c.section = to;
  }
  // Records that this person may not see stay clipped: nobody takes off what they do not know of.
  for (const c of before)
    if (
      change.clips !== undefined &&
      !allowsRecord(actor.grants, "see", c.record.company, c.record.type) &&
      !clips.some((x) => x.record.id === c.record.id)
    )
      clips.push(c);
  const main = clips[0];
  if (clips.some((c) => c.record.company !== was.company))
    return refuse("bad-input", undefined, [{ path: "clips", message: "a document belongs to one company" }]);
  const cls = {
    company: was.company,
    documentType: type.key,
    confidential: type.confidential,
    recordTypes: clips.map((c) => c.record.type),
  };
  const added = clips.filter((c) => !before.some((b) => b.record.id === c.record.id));
  if (!allowsDocument(actor.grants, "file", cls) || added.some((c) => !allowsRecord(actor.grants, "file", c.record.company, c.record.type)))
    return refuse("not-allowed");
  // Only what reaches further than before is asked about.
  const further = clips.filter((c) => {
    const old = before.find((b) => b.record.id === c.record.id);
    return !old || c.reach.some((t) => !old.reach.includes(t));
  });
  if (change.showsOnMany !== true) {
    const agreed = await agreeToReach(tx, actor, settings, further);
    if (!agreed.ok) return agreed;
  }
  const wasType = type.key === was.documentType ? type : await loadDocumentType(was.documentType, tx);
  const wasSaid = isTitleSaid(wasType, was, was.properties as FieldValues, before[0]?.record ?? null);
  const byPattern = titleByPattern(type, was, checked.data, main?.record ?? null);
  // The title that stands there, sent back as it was, is not one that a person writes now.
  const isWritten = change.title === undefined || change.title === was.title ? wasSaid : change.title !== null;
  const title = isWritten ? (change.title ?? was.title) : byPattern;
  const standing = (await tx.select().from(placeView).where(eq(placeView.documentId, was.id)))[0];
  const named = {
    documentType: type.label,
    code: documentCodeOf(was.id),
    filedOn: was.filedAt.toISOString().slice(0, 10),
    properties: checked.data,
    title,
    version: was.currentVersion,
    typeKey: type.key,
    typePlural: type.plural,
    section: main?.section ?? null,
  };
  const from = standing?.path ?? "";
  // A document of no record stays on its shelf.
  const wanted = main ? await settlePlace(tx, main.record.id, named, endingOf(standing?.name ?? ""), false) : null;
  if (wanted && !wanted.ok) return wanted;
  const to = !wanted
    ? from
    : standing && sameBut(from, wanted.value.path) && standing.connection === wanted.value.connection
      ? from
      : wanted.value.path;
  if (change.dryRun) return ok({ id: was.id, title, from, to });
  const at = now();
  const documentDate = checked.data["documentDate"];
  await tx
    .update(document)
    .set({
      title,
      titleSaid: isWritten && title !== byPattern,
      documentType: type.key,
      typeSaid: was.typeSaid || change.documentType !== undefined,
      properties: checked.data,
      confidential: type.confidential,
      aclId: await internClass(tx, cls),
      changedAt: at,
      ...(typeof documentDate === "string" && isCalendarDay(documentDate) ? { documentDate } : {}),
    })
    .where(eq(document.id, was.id));
  await enqueueCheck(tx, was.id);
  const removed = before.filter((b) => !clips.some((c) => c.record.id === b.record.id));
  if (change.clips !== undefined) {
    await tx.delete(clip).where(eq(clip.documentId, was.id));
    await tx.insert(clip).values(
      clips.map((c, position) => ({
        documentId: was.id,
        recordId: c.record.id,
        position,
        section: c.section,
        reach: [...c.reach],
        note: c.note,
        madeAt: before.find((b) => b.record.id === c.record.id)?.madeAt ?? at,
        madeBy: before.find((b) => b.record.id === c.record.id)?.madeBy ?? actor.id,
      })),
    );
    for (const [list, by] of [
      [added, 1],
      [removed, -1],
    ] as const)
      if (list.length > 0)
        await tx
          .update(record)
          .set({ documentCount: sql`${record.documentCount} + ${by}` })
          .where(
            inArray(
              record.id,
              list.map((c) => c.record.id),
            ),
          );
    const settled = main ? await settleFolder(tx, main.record.id, true) : null;
    if (settled && !settled.ok) return settled;
  } else
    for (const f of follows)
      await tx.execute(sql`update clip set section = ${f.to} where document_id = ${was.id} and record_id = ${f.recordId}`);
  if (change.clips !== undefined) await wantPointers(tx, was.id);
  await enterChildDocuments(tx, was.id);
  const about = { who: actor.id, company: was.company, documentId: was.id };
  const differs = type.properties.filter((p) => (checked.data[p.key] ?? null) !== ((was.properties as FieldValues)[p.key] ?? null));
  const recordTypes = await loadRecordTypes(tx);
  const lines: NewLine[] = [
    ...(title === was.title ? [] : [{ ...about, verb: "retitled" as const, details: { title } }]),
    ...(type.key === was.documentType ? [] : [{ ...about, verb: "typeChanged" as const, details: { documentType: type.label } }]),
    ...(differs.length === 0 || type.key !== was.documentType
      ? []
      : [{ ...about, verb: "propertiesChanged" as const, details: { fields: differs.map((p) => p.label).join(", ") } }]),
    ...added.map((c) => ({ ...about, verb: "clipped" as const, recordId: c.record.id, details: { title, code } })),
    ...clips.flatMap((c) => {
      const old = before.find((b) => b.record.id === c.record.id);
      const on = { ...about, recordId: c.record.id };
      const changes: NewLine[] = [
        ...(old && old.reach.join() !== c.reach.join()
          ? [{ ...on, verb: "reachChanged" as const, details: { title, reach: reachLabels(recordTypes, c.reach) } }]
          : []),
        ...(old && old.note !== c.note && c.note !== null ? [{ ...on, verb: "noted" as const, details: { title, note: c.note } }] : []),
        ...(old && old.note !== c.note && c.note === null ? [{ ...on, verb: "noteTaken" as const, details: { title } }] : []),
      ];
      return changes;
    }),
    ...removed.map((c) => ({ ...about, verb: "unclipped" as const, recordId: c.record.id, details: { title } })),
  ];
  await writeLines(tx, lines);
  await addJob(tx, "index", { documentId: was.id }, { key: `index:${was.id}`, priority: 1 });
  return ok({ id: was.id, title, from, to });
}

/** Whether two paths are the same but for a number that tells namesakes apart. */
function sameBut(a: string, b: string): boolean {
  return a === b || withoutNumber(a) === withoutNumber(b);
}

function reachLabels(types: readonly RecordType[], reach: readonly string[]): string {
  if (reach.length === 0) return "its own record only";
  return reach.map((key) => (types.find((t) => t.key === key)?.plural ?? key).toLowerCase()).join(", ");
}

function keptProperties(values: FieldValues, keys: readonly string[]): FieldValues {
  return Object.fromEntries(Object.entries(values).filter(([key]) => keys.includes(key)));
}
