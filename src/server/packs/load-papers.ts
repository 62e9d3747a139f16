import { sql } from "drizzle-orm";
import type { FieldValues } from "#core/records/record-type.ts";
import { diskLimits, legalName } from "#core/filing-plan/legal-name.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { type ChecklistItemAnswer, loadItems } from "../checklists/load-items.ts";
import { db } from "../db/connect.ts";
import { endingFor } from "../documents/ending-for.ts";
import type { Actor } from "../people/load-actor.ts";
import { reachedDocuments } from "../reach/reach.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { listLines, type TimelineEntry } from "../timeline/list-lines.ts";
import type { PackedRef, PackWish } from "./choose-records.ts";

/** A document of a pack: its newest version. */
export interface PackedPaper {
  readonly id: number;
  readonly code: string;
  readonly title: string;
  readonly documentType: string;
  readonly documentDate: string | null;
  readonly properties: FieldValues;
  readonly version: number;
  readonly sha256: string;
  readonly sizeBytes: number;
  readonly kind: string | null;
  readonly pages: number | null;
  readonly filedAt: string;
  readonly filedBy: string | null;
  readonly section: string | null;
  /** Its name in the pack; the code makes it the only one. */
  readonly fileName: string;
}
/** A record with everything of it that goes into a pack. */
export interface PackedRecord {
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly date: string | null;
  readonly amount: string | null;
  readonly currency: string | null;
  readonly fields: FieldValues;
  readonly papers: readonly PackedPaper[];
  readonly checklist: readonly ChecklistItemAnswer[];
  readonly timeline: readonly TimelineEntry[];
}

/** Loads one record of a pack with its documents, as the person may see them, oldest first. Null when it is not there any more. */
export async function loadPacked(actor: Actor, ref: PackedRef, scope: PackWish["scope"]): Promise<PackedRecord | null> {
  const row = await findVisibleRecord(actor, ref.type, ref.key, ref.company);
  if (!row) return null;
  const seen = await documentFilter(actor, "see", sql`d.acl_id`);
  const which =
    scope === "own"
      ? sql`select c.document_id from clip c where c.record_id = ${row.id} union ${reachedDocuments(row)}`
      : sql`select c.document_id from clip c join record r on r.id = c.record_id where (r.id = ${row.id} or r.chain_id = ${row.chainId}) and ${recordFilter(actor, "see", sql`r`)}`;
  const rows = await db().execute<{
    id: number;
    code: string;
    title: string;
    document_type: string;
    document_date: string | null;
    properties: FieldValues;
    version: number;
    sha256: string;
    size_bytes: number;
    kind: string | null;
    pages: number | null;
    filed_at: Date;
    filed_by: string | null;
    section: string | null;
    file_name: string;
  }>(sql`select d.id, d.code, d.title, d.document_type, d.document_date, d.properties, d.current_version as version, v.sha256, ct.size_bytes, ct.kind, ct.pages, d.filed_at,
      u.name as filed_by, mine.section, v.file_name
    from document d join document_version v on v.document_id = d.id and v.number = d.current_version join content ct on ct.sha256 = v.sha256
    left join "user" u on u.id = d.filed_by left join clip mine on mine.document_id = d.id and mine.record_id = ${row.id}
    where d.id in (${which}) and ${seen} and d.unfiled_at is null order by d.document_date, d.id`);
  return {
    company: row.company,
    type: row.type,
    key: row.key,
    title: row.title,
    status: row.status,
    date: row.date,
    amount: row.amount,
    currency: row.currency,
    fields: row.fields as FieldValues,
    papers: rows.rows.map((d) => ({
      id: d.id,
      code: d.code,
      title: d.title,
      documentType: d.document_type,
      documentDate: d.document_date,
      properties: d.properties,
      version: d.version,
      sha256: d.sha256,
      sizeBytes: d.size_bytes,
      kind: d.kind,
      pages: d.pages,
      filedAt: new Date(d.filed_at).toISOString(),
      filedBy: d.filed_by,
      section: d.section,
      fileName: legalName(`${d.code} ${d.title}`, diskLimits, endingFor(d.kind, d.file_name)),
    })),
    checklist: await loadItems(actor, row),
    timeline: await listLines(actor, { recordId: row.id }),
  };
}
