import { asc, count, eq, sql } from "drizzle-orm";
import { type DocumentType, documentTypeSchema } from "#core/documents/document-type.ts";
import { type RecordType, recordTypeSchema } from "#core/records/record-type.ts";
import { db, type Tx } from "../db/connect.ts";
import { keptBySetUp } from "../db/kept-by-set-up.ts";
import { memoizeParse } from "../db/memoize-parse.ts";
import { documentType } from "../documents/tables.ts";
import { record, recordType } from "./tables.ts";

const asRecordType = memoizeParse(recordTypeSchema);
const asDocumentType = memoizeParse(documentTypeSchema);

const recordTypes = keptBySetUp(() => readRecordTypes(db()));
const documentTypes = keptBySetUp(() => readDocumentTypes(db()));

/** All record types, in their order. */
export function loadRecordTypes(tx?: Tx): Promise<readonly RecordType[]> {
  return tx ? readRecordTypes(tx) : recordTypes();
}

async function readRecordTypes(tx: Tx): Promise<readonly RecordType[]> {
  const rows = await tx
    .select({ text: sql<string>`${recordType.definition}::text` })
    .from(recordType)
    .orderBy(asc(recordType.order));
  return rows.map((r) => asRecordType(r.text));
}

/** One record type; null when there is none of this key. */
export async function loadRecordType(key: string, tx: Tx = db()): Promise<RecordType | null> {
  const rows = await tx
    .select({ text: sql<string>`${recordType.definition}::text` })
    .from(recordType)
    .where(eq(recordType.key, key));
  return rows[0] ? asRecordType(rows[0].text) : null;
}

/** All document types, in their order. */
export function loadDocumentTypes(tx?: Tx): Promise<readonly DocumentType[]> {
  return tx ? readDocumentTypes(tx) : documentTypes();
}

async function readDocumentTypes(tx: Tx): Promise<readonly DocumentType[]> {
  const rows = await tx
    .select({ text: sql<string>`${documentType.definition}::text` })
    .from(documentType)
    .orderBy(asc(documentType.order));
  return rows.map((r) => asDocumentType(r.text));
}

/** One document type; null when there is none of this key. */
export async function loadDocumentType(key: string, tx: Tx = db()): Promise<DocumentType | null> {
  const rows = await tx
    .select({ text: sql<string>`${documentType.definition}::text` })
    .from(documentType)
    .where(eq(documentType.key, key));
  return rows[0] ? asDocumentType(rows[0].text) : null;
}

/** Adds or changes record types and document types; for set-up. Safe to run again. */
export async function saveTypes(types: {
  readonly recordTypes: readonly RecordType[];
  readonly documentTypes: readonly DocumentType[];
}): Promise<void> {
  for (const t of types.recordTypes) {
    const definition = recordTypeSchema.parse(t);
    await db()
      .insert(recordType)
      .values({ key: t.key, definition, order: t.order })
      .onConflictDoUpdate({ target: recordType.key, set: { definition, order: t.order } });
  }
  for (const t of types.documentTypes) {
    const definition = documentTypeSchema.parse(t);
    await db()
      .insert(documentType)
      .values({ key: t.key, definition, order: t.order })
      .onConflictDoUpdate({ target: documentType.key, set: { definition, order: t.order } });
  }
}

/** Number of records by type in a company; unfiltered, for set-up screens only. */
export async function countAllRecords(): Promise<ReadonlyMap<string, number>> {
  const rows = await db().select({ type: record.type, count: count() }).from(record).groupBy(record.type);
  return new Map(rows.map((r) => [r.type, r.count]));
}
