import { sql } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";

/** The records above a record and itself, nearest first. Linear in depth; a ring (which cannot be made) would end too. */
const upFrom = (ids: ReturnType<typeof sql>) => sql`with recursive up as (
  select r.id as start, r.id, r.above_id from record r where r.id in (${ids})
  union select up.start, r.id, r.above_id from record r join up on r.id = up.above_id)`;

/** What the maintained table ought to hold of some documents (alias d); a clip's own record is not reached, it is clipped to. */
const fresh = (
  documents: ReturnType<typeof sql>,
) => sql`select up.id as record_id, d.id as document_id, d.acl_id, bool_or(up.id <> up.start and r.type = any(c.reach)) as reaches
  from clip c join up on up.start = c.record_id join record r on r.id = up.id join document d on d.id = c.document_id and d.unfiled_at is null where ${documents}
  group by up.id, d.id, d.acl_id`;

/** Enters a document's clips with every record above them. Call in the clip's transaction, after the clips are written. */
export async function enterChildDocuments(tx: Tx, documentId: number): Promise<void> {
  await tx.execute(sql`delete from beneath_document where document_id = ${documentId}`);
  await tx.execute(sql`${upFrom(sql`select record_id from clip where document_id = ${documentId}`)}
    insert into beneath_document (record_id, document_id, acl_id, reaches)
    ${fresh(sql`d.id = ${documentId}`)}`);
}

/** Works out again what is beneath whatever a record and those beneath it sit under; after it was moved to another account. */
export async function refreshChildDocuments(tx: Tx, recordId: number): Promise<void> {
  const documents = await tx.execute<{ document_id: number }>(sql`select document_id from beneath_document where record_id = ${recordId}`);
  for (const row of documents.rows) await enterChildDocuments(tx, row.document_id);
}

/** Rows of the maintained table that differ from a fresh computation (promise 9); 0 when they agree. */
export async function countChildDocumentDifferences(tx: Tx): Promise<number> {
  const rows = await tx.execute<{ differences: number }>(sql`${upFrom(sql`select record_id from clip`)},
    fresh as (${fresh(sql`true`)})
    select ((select count(*) from (select * from fresh except select record_id, document_id, acl_id, reaches from beneath_document) missing)
          + (select count(*) from (select record_id, document_id, acl_id, reaches from beneath_document except select * from fresh) extra))::int as differences`);
  return rows.rows[0]?.differences ?? 0;
}

/** Works the whole maintained table out again; for the check that repairs. */
export async function refreshAllChildDocuments(tx: Tx): Promise<void> {
  await tx.execute(sql`lock table beneath_document in share row exclusive mode`);
  await tx.execute(sql`delete from beneath_document`);
  await tx.execute(sql`${upFrom(sql`select record_id from clip`)}
    insert into beneath_document (record_id, document_id, acl_id, reaches)
    ${fresh(sql`true`)}`);
}
