import { and, eq, ne, sql } from "drizzle-orm";
import { lookupTextOf } from "#core/records/lookup-text.ts";
import { foldReference } from "#core/shared/fold-text.ts";
import { referencesOf } from "#core/records/record-references.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { refreshChildDocuments } from "../clips/refresh-child-documents.ts";
import type { Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { enterReferences } from "./enter-references.ts";
import { loadRecordType } from "./load-types.ts";
import { record } from "./tables.ts";

/**
 * Gives a record another number, with all that is found by it. When a record of that number is there already, that one is kept, and the documents of this
 * one are clipped to it instead. Answers the id of the record that bears the number now.
 */
export async function renumberRecord(tx: Tx, id: number, key: string, status: string): Promise<number> {
  const row = (await tx.select().from(record).where(eq(record.id, id)).for("update"))[0];
  if (!row) throw new Error("there is no such record");
  const other = (
    await tx
      .select({ id: record.id })
      .from(record)
      .where(and(eq(record.company, row.company), eq(record.type, row.type), eq(record.key, key), ne(record.id, id)))
      .for("update")
  )[0];
  if (other) {
    await tx.execute(sql`update clip set record_id = ${other.id} where record_id = ${id}
      and not exists (select from clip c where c.document_id = clip.document_id and c.record_id = ${other.id})`);
    await tx.execute(sql`delete from clip where record_id = ${id}`);
    for (const kept of [id, other.id])
      await tx.execute(
        sql`update record set document_count = (select count(*) from clip c where c.record_id = record.id) where id = ${kept}`,
      );
    await refreshChildDocuments(tx, id);
    await tx.update(record).set({ status: "withdrawn", changedAt: now() }).where(eq(record.id, id));
    return other.id;
  }
  const fields = row.fields as FieldValues;
  const type = await loadRecordType(row.type, tx);
  await tx
    .update(record)
    .set({
      key,
      status,
      keyFolded: foldReference(key),
      lookupText: lookupTextOf(key, row.title, fields),
      changedAt: now(),
    })
    .where(eq(record.id, id));
  await enterReferences(tx, new Map([[id, referencesOf({ key, title: row.title, isStanding: type?.kind === "standing", fields })]]));
  return id;
}
