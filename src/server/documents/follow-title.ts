import { and, eq, isNull } from "drizzle-orm";
import type { DocumentType } from "#core/documents/document-type.ts";
import { decideTitle } from "#core/filing-plan/decide-file-name.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { asFolderRecord } from "../filing-plan/settle-folder.ts";
import { clip } from "../clips/tables.ts";
import type { Tx } from "../db/connect.ts";
import { record } from "../records/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { document } from "./tables.ts";

type DocumentRow = Pick<typeof document.$inferSelect, "id" | "code" | "title" | "titleSaid" | "filedAt" | "currentVersion">;
type RecordRow = typeof record.$inferSelect;

/** The title that a document type's pattern gives a document with these properties on this main record. Pure. */
export function titleByPattern(type: DocumentType, row: DocumentRow, properties: FieldValues, main: RecordRow | null): string {
  const { code, currentVersion: version } = row;
  const about = { documentType: type.label, code, filedOn: row.filedAt.toISOString().slice(0, 10), version, properties };
  return decideTitle(type.titlePattern, about, main ? asFolderRecord(main) : null);
}

/** Whether a person wrote a document's title. Where that was not kept, it is compared with what the pattern gives. */
export function isTitleSaid(type: DocumentType | null, row: DocumentRow, properties: FieldValues, main: RecordRow | null): boolean {
  return row.titleSaid ?? (type === null || row.title !== titleByPattern(type, row, properties, main));
}

/**
 * Gives the documents of a record the titles that their patterns give now, because its number or name has changed. Titles that a person wrote stay. In the caller's
 * transaction; their files follow with the record's folder.
 */
export async function followTitles(tx: Tx, recordId: number, was: RecordRow): Promise<void> {
  const main = (await tx.select().from(record).where(eq(record.id, recordId)))[0];
  if (!main) return;
  const rows = await tx
    .select({ document })
    .from(document)
    .innerJoin(clip, eq(clip.documentId, document.id))
    .where(and(eq(clip.recordId, recordId), eq(clip.position, 0), isNull(document.unfiledAt)));
  for (const { document: row } of rows) {
    const type = await loadDocumentType(row.documentType, tx);
    const properties = row.properties as FieldValues;
    if (!type || isTitleSaid(type, row, properties, was)) continue;
    const title = titleByPattern(type, row, properties, main);
    if (title === row.title) continue;
    await tx.update(document).set({ title }).where(eq(document.id, row.id));
    await writeLines(tx, [{ verb: "retitled", who: PROGRAM, company: row.company, documentId: row.id, details: { title } }]);
    await addJob(tx, "index", { documentId: row.id }, { key: `index:${row.id}`, priority: 1 });
  }
}

/** The record that a document is clipped to first, which decides its title and location; null for one on a shelf. */
export async function loadMainRecord(tx: Tx, documentId: number): Promise<RecordRow | null> {
  const rows = await tx
    .select({ record })
    .from(clip)
    .innerJoin(record, eq(record.id, clip.recordId))
    .where(eq(clip.documentId, documentId))
    .orderBy(clip.position)
    .limit(1);
  return rows[0]?.record ?? null;
}
