import { and, eq, inArray, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsDocument, allowsRecord } from "#core/access/grants.ts";
import { openStates } from "#core/arrivals/journey.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import { decideTitle } from "#core/filing-plan/decide-file-name.ts";
import { decideReach } from "#core/reach/reach.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { isCalendarDay } from "#core/records/parse-field-values.ts";
import { type ArrivalId, type DocumentCode, documentCodeOf } from "#core/shared/brand.ts";
import { ok, type Refusal, refuse, type Result } from "#core/shared/result.ts";
import { internClass } from "../access/class-bits.ts";
import { arrivalFilter } from "../access/filters.ts";
import { claimedByOther } from "../arrivals/claim.ts";
import { arrival } from "../arrivals/tables.ts";
import { enterChildDocuments } from "../clips/refresh-child-documents.ts";
import { clip } from "../clips/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { isDeadlock, isUniqueViolation } from "../db/describe-error.ts";
import { asFolderRecord } from "../filing-plan/settle-folder.ts";
import { moveNow } from "../filing-plan/move-now.ts";
import { type PlacedDocument, type SettledPlace, settlePlace } from "../filing-plan/settle-place.ts";
import { place as placeView, placement } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now, today } from "../ports/clock.ts";
import { enqueueCheck } from "../automatic-filing/enqueue-check.ts";
import { agreeToReach, clipWishSchema } from "../reach/reach.ts";
import { wantPointers } from "../repository/carry-pointers.ts";
import { findShelf, settleOnShelf } from "../repository/settle-on-shelf.ts";
import { sectionFor } from "../sections/load-tree.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { record } from "../records/tables.ts";
import { loadReachSettings } from "../settings/load-settings.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { addVersion, endArrival, findSameName } from "./add-version.ts";
import { endingFor } from "./ending-for.ts";
import { content, document, documentVersion } from "./tables.ts";

/** What is noted on a clip; nothing but blanks takes it off. */
export const noteSchema = z.string().trim().max(500);

/** How a document is to be filed. */
export const filingSchema = z.object({
  documentType: z.string().min(1).max(40),
  clips: z
    .array(
      clipWishSchema.extend({
        section: z.string().max(80).optional(),
        /** A line about this document on this record. */
        note: noteSchema.optional(),
      }),
    )
    .max(200),
  /** For a document of no record: the shelf it stands on. With clips it is left out. */
  shelf: z.number().int().optional(),
  title: z.string().trim().max(200).optional(),
  properties: z.record(z.string(), z.unknown()).optional(),
  /** Said by whoever was told on how many records a clip would show, and wants it. */
  showsOnMany: z.boolean().optional(),
  onSameName: z.enum(["ask", "version", "replace", "separate"]).optional(),
});
export type Filing = z.infer<typeof filingSchema>;

/** Where a document stands, as the API says it. */
export interface LocationAnswer {
  readonly connection: string;
  readonly path: string;
  readonly state: string;
  readonly sha256: string | null;
  readonly verifiedAt: string | null;
}

export interface Filed {
  readonly code: DocumentCode;
  readonly title: string;
  readonly path: string;
  readonly location: LocationAnswer;
}

type RecordRow = typeof record.$inferSelect;
type ArrivalRow = typeof arrival.$inferSelect;

/** Rolls back what was done before a filing that was refused. */
class Undone extends Error {
  constructor(readonly refusal: Refusal) {
    super("undone");
  }
}

/** Times a filing is begun again when another took its name in the same moment. */
const RACES_MAX = 8;

/**
 * Files an arrival: makes the document with its clips, enters its place, and queues placing and indexing, all in one transaction.
 * The arrival must be open and the same one is never filed twice. Refuses not-found, not-allowed, stale, no-clip, unknown-record,
 * claimed (by somebody else), unknown-type, reaches-many (not agreed to), bad-input (fields), no-folder-rule, name-taken, path-too-long.
 */
export async function fileAway(
  actor: Actor,
  id: ArrivalId,
  filing: Filing,
  options: {
    readonly mayBeRepeat: boolean;
    /** Done first, in the same transaction, such as making the record it is clipped to; a refusal leaves nothing behind. */
    readonly before?: (tx: Tx) => Promise<Result<unknown>>;
    /** Done last, in the same transaction, with the document that was made. */
    readonly after?: (tx: Tx, documentId: number) => Promise<void>;
  } = { mayBeRepeat: false },
): Promise<Result<Filed>> {
  const filter = await arrivalFilter(actor);
  for (let race = 0; ; race++) {
    try {
      const outcome = await db().transaction(async (tx) => {
        const row = (
          await tx
            .select()
            .from(arrival)
            .where(sql`${eq(arrival.id, id)} and ${filter}`)
            .for("update")
        )[0];
        if (!row) return refuse("not-found");
        if (options.mayBeRepeat && row.state === "filed" && row.endedBy === actor.id) return answerAgain(tx, row, filing);
        if (!(openStates as readonly string[]).includes(row.state)) return refuse("stale");
        const other = await claimedByOther(tx, actor, row);
        if (other !== null) return refuse("claimed", other);
        const begun = options.before ? await options.before(tx) : null;
        if (begun && !begun.ok) return begun;
        const filed = await fileIn(tx, actor, row, filing);
        // What was done before goes with it.
        if (begun && !filed.ok) throw new Undone(filed.refusal);
        if (filed.ok) await options.after?.(tx, idOfCode(filed.value.code));
        return filed;
      });
      // A new version may be called otherwise: its number can stand in the file's name.
      if (outcome.ok && filing.onSameName === "version") return await followVersion(actor, outcome.value);
      return outcome;
    } catch (error) {
      if (error instanceof Undone) return { ok: false, refusal: error.refusal };
      const raced =
        isUniqueViolation(error, "placement_path_is_one_documents") ||
        isUniqueViolation(error, "folder_is_one_records") ||
        isDeadlock(error);
      if (!raced || race >= RACES_MAX) throw error;
    }
  }
}

const idOfCode = (code: DocumentCode): number => Number(code.slice("AC-".length));

/** Moves a document whose new version gives it another name; nothing happens to one that is called as before. */
async function followVersion(actor: Actor, filed: Filed): Promise<Result<Filed>> {
  const id = idOfCode(filed.code);
  const moved = await moveNow(actor, "document", filed.title, { documentIds: [id] });
  if (!moved.ok || moved.value === null) return ok(filed);
  const at = (await db().select({ path: placeView.path }).from(placeView).where(eq(placeView.documentId, id)))[0];
  await addJob(db(), "place", { documentId: id }, { key: `place:${id}` });
  return ok(at ? { ...filed, path: at.path, location: { ...filed.location, path: at.path } } : filed);
}

/** The answer to a filing that was carried out but not answered, because the process died in between (promise 11). */
async function answerAgain(tx: Tx, row: ArrivalRow, filing: Filing): Promise<Result<Filed>> {
  if (row.documentId === null) return refuse("stale");
  const found = (
    await tx
      .select({
        document,
        place: {
          connection: placeView.connection,
          path: placeView.path,
          state: placeView.state,
          sha256: placeView.sha256,
          checkedAt: placeView.checkedAt,
        },
        key: record.key,
        type: record.type,
      })
      .from(document)
      .innerJoin(placeView, eq(placeView.documentId, document.id))
      .leftJoin(clip, and(eq(clip.documentId, document.id), eq(clip.position, 0)))
      .leftJoin(record, eq(record.id, clip.recordId))
      .where(eq(document.id, row.documentId))
  )[0];
  const main = filing.clips[0];
  if (
    !found ||
    found.document.documentType !== filing.documentType ||
    found.type !== (main?.type ?? null) ||
    found.key !== (main?.key ?? null)
  )
    return refuse("stale");
  const { connection, path, state, sha256, checkedAt } = found.place;
  const place = { connection, path, state, sha256, verifiedAt: checkedAt?.toISOString() ?? null };
  return ok({ code: documentCodeOf(found.document.id), title: found.document.title, path, location: place });
}

/** What a filing would make: title, checked properties and place. Nothing is written. */
export async function previewFiling(
  actor: Actor,
  id: ArrivalId,
  filing: Filing,
): Promise<Result<{ title: string; properties: FieldValues; place: SettledPlace; sameName: boolean }>> {
  const filter = await arrivalFilter(actor);
  const row = (
    await db()
      .select()
      .from(arrival)
      .where(sql`${eq(arrival.id, id)} and ${filter}`)
  )[0];
  if (!row) return refuse("not-found");
  const prepared = await prepare(db(), actor, row, filing, { partial: true });
  if (!prepared.ok) return prepared;
  const { main, shelf, named, ending } = prepared.value;
  const place = main ? await settlePlace(db(), main.id, named, ending, false) : await settleOnShelf(db(), shelf, named, ending, false);
  if (!place.ok) return place;
  return ok({
    title: named.title,
    properties: named.properties,
    place: place.value,
    sameName: / \(\d+\)(\.\w+)?$/.test(place.value.fileName) && !/ \(\d+\)$/.test(named.title),
  });
}

async function fileIn(tx: Tx, actor: Actor, row: ArrivalRow, filing: Filing): Promise<Result<Filed>> {
  const prepared = await prepare(tx, actor, row, filing, { partial: false });
  if (!prepared.ok) return prepared;
  const { type, records, main, shelf, company, named, ending, sections, titleSaid } = prepared.value;
  const settings = await loadReachSettings(tx);
  const wishOf = (r: RecordRow) => filing.clips.find((c) => c.type === r.type && c.key === r.key);
  const reaching = records.map((r) => ({ record: r, reach: decideReach(wishOf(r)?.reach, settings, type.key, r.type) }));
  if (filing.showsOnMany !== true) {
    const agreed = await agreeToReach(tx, actor, settings, reaching);
    if (!agreed.ok) return agreed;
  }
  const at = now();
  const aclId = await internClass(tx, {
    company,
    documentType: type.key,
    confidential: type.confidential,
    recordTypes: records.map((r) => r.type),
  });
  if (main && filing.onSameName !== undefined && filing.onSameName !== "separate") {
    const same = await findSameName(tx, main.id, type.key, named.title);
    if (same && filing.onSameName === "version") return addVersion(tx, actor, row, same, ending);
    if (same) return refuse("name-taken", same.code);
  }
  const nextId = (await tx.execute<{ id: number }>(sql`select nextval('document_id_seq') as id`)).rows[0]?.id;
  if (nextId === undefined) throw new Error("no document id");
  const code = documentCodeOf(nextId);
  const place = main
    ? await settlePlace(tx, main.id, { ...named, code }, ending, true)
    : await settleOnShelf(tx, shelf, { ...named, code }, ending, true);
  if (!place.ok) return place;
  const documentDate = named.properties["documentDate"];
  await tx.insert(document).values({
    id: nextId,
    code,
    company,
    documentType: type.key,
    title: named.title,
    titleSaid,
    properties: named.properties,
    confidential: type.confidential,
    aclId,
    documentDate: typeof documentDate === "string" && isCalendarDay(documentDate) ? documentDate : today(),
    filedAt: at,
    filedBy: actor.id,
    changedAt: at,
  });
  await tx
    .insert(documentVersion)
    .values({ documentId: nextId, number: 1, sha256: row.sha256, fileName: row.fileName, madeAt: at, madeBy: actor.id });
  if (records.length > 0)
    await tx.insert(clip).values(
      records.map((r, position) => ({
        documentId: nextId,
        recordId: r.id,
        position,
        section: sections[position] ?? null,
        reach: [...(reaching[position]?.reach ?? [])],
        note: wishOf(r)?.note || null,
        madeAt: at,
        madeBy: actor.id,
      })),
    );
  if (records.length > 0)
    await tx
      .update(record)
      .set({ usedAt: at, documentCount: sql`${record.documentCount} + 1` })
      .where(
        inArray(
          record.id,
          records.map((r) => r.id),
        ),
      );
  await enterChildDocuments(tx, nextId);
  if (place.value.folderId === null) throw new Error("the folder was not entered");
  await tx.insert(placement).values({
    documentId: nextId,
    folderId: place.value.folderId,
    name: place.value.fileName,
    nameFolded: place.value.nameFolded,
    state: "waiting",
  });
  if (records.length > 1) await wantPointers(tx, nextId);
  await endArrival(tx, row, actor, nextId);
  if (shelf) await writeLines(tx, [{ verb: "shelved", who: actor.id, company, documentId: nextId, details: { path: shelf.path } }]);
  await writeLines(tx, [
    {
      verb: "filed",
      who: actor.id,
      company,
      documentId: nextId,
      arrivalId: row.id,
      details: { documentType: type.label, fileName: row.fileName },
    },
    ...records.map((r) => ({
      verb: "clipped" as const,
      who: actor.id,
      company: r.company,
      documentId: nextId,
      recordId: r.id,
      details: { title: named.title, code },
    })),
  ]);
  await addJob(tx, "place", { documentId: nextId }, { key: `place:${nextId}` });
  await addJob(tx, "index", { documentId: nextId }, { key: `index:${nextId}`, priority: 1 });
  await addJob(tx, "learn", { documentId: nextId }, { key: `learn:${nextId}`, priority: 2 });
  await enqueueCheck(tx, nextId);
  return ok({
    code,
    title: named.title,
    path: place.value.path,
    location: { connection: place.value.connection, path: place.value.path, state: "waiting", sha256: null, verifiedAt: null },
  });
}

/** Checks a filing against types, records and rights, and works out title and properties. */
async function prepare(tx: Tx, actor: Actor, row: ArrivalRow, filing: Filing, options: { readonly partial: boolean }) {
  const type: DocumentType | null = await loadDocumentType(filing.documentType, tx);
  if (!type) return refuse("unknown-type", filing.documentType);
  const shelf = filing.clips.length === 0 && filing.shelf !== undefined ? await findShelf(tx, actor, filing.shelf) : null;
  if (filing.clips.length === 0 && filing.shelf === undefined) return refuse("no-clip");
  if (filing.clips.length === 0 && !shelf) return refuse("not-found");
  const records: RecordRow[] = [];
  for (const wish of filing.clips) {
    const found = await findClipRecord(tx, actor, wish, row.company);
    if (!found) return refuse("unknown-record", `${wish.type} ${wish.key}`);
    if (!records.some((r) => r.id === found.id)) records.push(found);
  }
  const main = records[0] ?? null;
  const company = main?.company ?? shelf?.company;
  if (company == null) return refuse("no-clip");
  const other = records.find((r) => r.company !== company);
  if (main && other)
    return refuse("bad-input", undefined, [
      { path: "clips", message: `${main.key} and ${other.key} belong to different companies; a document belongs to one` },
    ]);
  const cls = { company, documentType: type.key, confidential: type.confidential, recordTypes: records.map((r) => r.type) };
  if (!allowsDocument(actor.grants, "file", cls) || records.some((r) => !allowsRecord(actor.grants, "file", r.company, r.type)))
    return refuse("not-allowed");
  const checked = fieldValuesSchema(type.properties, options).safeParse(filing.properties ?? {});
  if (!checked.success)
    return refuse(
      "bad-input",
      undefined,
      checked.error.issues.map((i) => ({ path: `properties.${i.path.join(".")}`, message: i.message })),
    );
  const about = { documentType: type.label, code: "", filedOn: today(), properties: checked.data };
  const byPattern = decideTitle(type.titlePattern, about, main ? asFolderRecord(main) : null);
  const title = filing.title ? filing.title : byPattern;
  const known = (await tx.select({ kind: content.kind }).from(content).where(eq(content.sha256, row.sha256)))[0]?.kind;
  const ending = endingFor(known ?? null, row.fileName);
  const documentDate = checked.data["documentDate"];
  const paper = {
    documentType: type.key,
    documentDate: typeof documentDate === "string" && isCalendarDay(documentDate) ? documentDate : today(),
    properties: checked.data,
  };
  const sections: (string | null)[] = [];
  for (const r of records)
    sections.push(await sectionFor(tx, r, filing.clips.find((c) => c.type === r.type && c.key === r.key)?.section, paper));
  const section = sections[0] ?? null;
  // The code is known only once it is filed; patterns that name files by it are asked again then.
  const named: PlacedDocument = { ...about, title, version: 1, typeKey: type.key, typePlural: type.plural, section };
  return ok({ type, records, main, shelf, company, named, ending, sections, titleSaid: title !== byPattern });
}

/** The record a clip names, if the person may see it; two that fit equally well are not guessed between. */
export async function findClipRecord(
  tx: Tx,
  actor: Actor,
  wish: Filing["clips"][number],
  arrivalCompany: string | null,
): Promise<RecordRow | null> {
  const rows = await tx
    .select()
    .from(record)
    .where(
      and(eq(record.type, wish.type), eq(record.key, wish.key), ...(wish.company === undefined ? [] : [eq(record.company, wish.company)])),
    );
  const seen = rows.filter((r) => allowsRecord(actor.grants, "see", r.company, r.type));
  // Without a company the arrival's own goes first; two that fit equally well are not guessed between.
  return seen.find((r) => r.company === arrivalCompany) ?? (seen.length === 1 ? (seen[0] ?? null) : null);
}
