import { asc, eq, sql } from "drizzle-orm";
import type { FieldValues } from "#core/records/record-type.ts";
import type { DocumentCode } from "#core/shared/brand.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { openRepository } from "../filing-plan/open-repository.ts";
import { place as placeView } from "../filing-plan/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { user } from "../people/tables.ts";
import { shelfFilter } from "../repository/browse.ts";
import type { LocationAnswer } from "./file-away.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { isTitleSaid, loadMainRecord } from "./follow-title.ts";
import { content, document, documentVersion } from "./tables.ts";

/** A document with all that its page and the API show. */
export interface DocumentAnswer {
  readonly id: number;
  readonly code: string;
  readonly title: string;
  readonly company: string;
  readonly documentType: string;
  readonly properties: FieldValues;
  readonly lifecycle: string;
  readonly documentDate: string | null;
  readonly filedAt: string;
  readonly filedBy: string;
  readonly kind: string | null;
  readonly mediaType: string | null;
  readonly pages: number | null;
  readonly versions: readonly {
    readonly version: number;
    readonly fileName: string;
    readonly sha256: string;
    readonly bytes: number;
    readonly madeAt: string;
  }[];
  readonly clips: readonly {
    readonly company: string;
    readonly type: string;
    readonly key: string;
    readonly title: string;
    readonly section: string | null;
    /** Record types along its chain that see it too. */
    readonly reach: readonly string[];
    readonly note: string | null;
  }[];
  /** False while nobody has said what kind of document it is. */
  readonly typeSaid: boolean;
  /** Whether a person wrote the title; else it follows its type's pattern. */
  readonly titleSaid: boolean;
  /** Shelves it stands on, by id. */
  readonly shelves: readonly number[];
  readonly location: (LocationAnswer & { readonly address: string; readonly why: string | null }) | null;
}

/** A document by its code; null when there is none, it was unfiled, or the person may not see it. */
export async function loadDocument(actor: Actor, code: DocumentCode): Promise<DocumentAnswer | null> {
  const row = (
    await db()
      .select({ document, name: user.name })
      .from(document)
      .leftJoin(user, eq(user.id, document.filedBy))
      .where(sql`${eq(document.code, code)} and ${document.unfiledAt} is null and ${await documentFilter(actor)}`)
  )[0];
  if (!row) return null;
  const d = row.document;
  const [versions, clips, places, shelves, type, main] = await Promise.all([
    db()
      .select({
        version: documentVersion,
        bytes: content.sizeBytes,
        kind: content.kind,
        mediaType: content.mediaType,
        pages: content.pages,
      })
      .from(documentVersion)
      .innerJoin(content, eq(content.sha256, documentVersion.sha256))
      .where(eq(documentVersion.documentId, d.id))
      .orderBy(asc(documentVersion.number)),
    db().execute<
      DocumentAnswer["clips"][number] & Record<string, unknown>
    >(sql`select r.company, r.type, r.key, r.title, c.section, c.reach, c.note from clip c join record r on r.id = c.record_id
      where c.document_id = ${d.id} and ${recordFilter(actor, "see", sql`r`)} order by c.position`),
    db().select().from(placeView).where(eq(placeView.documentId, d.id)),
    db().execute<{ id: number }>(
      sql`select f.id from pointer p join folder f on f.id = p.folder_id where p.document_id = ${d.id} and p.state <> 'unwanted' and ${shelfFilter(actor)}`,
    ),
    d.titleSaid === null ? loadDocumentType(d.documentType) : null,
    d.titleSaid === null ? loadMainRecord(db(), d.id) : null,
  ]);
  const current = versions.find((v) => v.version.number === d.currentVersion);
  const place = places[0];
  return {
    id: d.id,
    code: d.code,
    title: d.title,
    company: d.company,
    documentType: d.documentType,
    properties: d.properties as FieldValues,
    lifecycle: d.lifecycle,
    documentDate: d.documentDate,
    filedAt: d.filedAt.toISOString(),
    filedBy: row.name ?? "Deleted person",
    kind: current?.kind ?? null,
    mediaType: current?.mediaType ?? null,
    pages: current?.pages ?? null,
    versions: versions.map((v) => ({
      version: v.version.number,
      fileName: v.version.fileName,
      sha256: v.version.sha256,
      bytes: v.bytes,
      madeAt: v.version.madeAt.toISOString(),
    })),
    clips: clips.rows,
    typeSaid: d.typeSaid,
    titleSaid: isTitleSaid(type, d, d.properties as FieldValues, main),
    shelves: shelves.rows.map((s) => s.id),
    location: place
      ? {
          connection: place.connection,
          path: place.path,
          state: place.state,
          sha256: place.sha256,
          verifiedAt: place.checkedAt?.toISOString() ?? null,
          address: (await openRepository(place.connection)).locationOf(place.path),
          why: place.why,
        }
      : null,
  };
}

/** The bytes behind a document: hash and file name of a version, or of the version whose hash begins with `of` (the current one unless said); null when it is not there for this person. */
export async function loadDocumentFile(
  actor: Actor,
  code: DocumentCode,
  { version, of }: { readonly version?: number | undefined; readonly of?: string | undefined } = {},
): Promise<{ readonly sha256: string; readonly fileName: string } | null> {
  // Asked for with every picture of a page: no more than is needed.
  const { rows } = await db().execute<{
    sha256: string;
    file_name: string;
    path: string | null;
  }>(sql`select v.sha256, v.file_name, place.path
    from document join document_version v on v.document_id = document.id left join place on place.document_id = document.id
    where document.code = ${code} and document.unfiled_at is null and ${version === undefined ? sql`true` : sql`v.number = ${version}`}
      and ${of === undefined ? sql`true` : sql`starts_with(v.sha256, ${of})`}
      and ${await documentFilter(actor)} order by v.number desc limit 1`);
  const found = rows[0];
  if (!found) return null;
  const placed = found.path?.split("/").at(-1);
  return { sha256: found.sha256, fileName: version === undefined && of === undefined && placed !== undefined ? placed : found.file_name };
}
