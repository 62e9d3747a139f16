import { lt, sql } from "drizzle-orm";
import { type RecordReference, referencesOf, REFERENCES_VERSION } from "#core/records/record-references.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { db, type Tx } from "../db/connect.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { loadRecordTypes } from "./load-types.ts";
import { record, recordReference } from "./tables.ts";

/** Records entered in one go by the upkeep. */
const AT_ONCE = 2000;

/** Enters what records can be recognised by, by their ids, in place of what was entered before. Their `references_version` is the caller's to set. */
export async function enterReferences(tx: Tx, references: ReadonlyMap<number, readonly RecordReference[]>): Promise<void> {
  if (references.size === 0) return;
  const all = [...references].flatMap(([id, rs]) => rs.map((r) => ({ id, ...r })));
  await tx.execute(sql`with wanted as (select * from unnest(${idArray(all.map((r) => r.id))}::bigint[], ${textArray(all.map((r) => r.kind))}::text[], ${textArray(all.map((r) => r.reference))}::text[]) as w (record_id, kind, reference)),
    gone as (delete from record_reference r where r.record_id = any(${idArray([...references.keys()])}::bigint[])
      and not exists (select from wanted w where w.record_id = r.record_id and w.kind = r.kind and w.reference = r.reference))
    insert into record_reference (record_id, kind, reference) select record_id, kind, reference from wanted on conflict do nothing`);
}

/** Enters the references of records that came in before there were any, or with older rules. Answers how many; safe to repeat. */
export async function enterMissing(): Promise<number> {
  const standing = new Set((await loadRecordTypes()).filter((t) => t.kind === "standing").map((t) => t.key));
  return db().transaction(async (tx) => {
    const rows = await tx
      .select()
      .from(record)
      .where(lt(record.referencesVersion, REFERENCES_VERSION))
      .limit(AT_ONCE)
      .for("update", { skipLocked: true });
    if (rows.length === 0) return 0;
    const ids = rows.map((r) => r.id);
    const all = rows.flatMap((r) =>
      referencesOf({ key: r.key, title: r.title, isStanding: standing.has(r.type), fields: r.fields as FieldValues }).map((f) => ({
        recordId: r.id,
        ...f,
      })),
    );
    await tx.execute(sql`delete from record_reference where record_id = any(${`{${ids.join(",")}}`}::bigint[])`);
    for (let at = 0; at < all.length; at += 5000)
      await tx
        .insert(recordReference)
        .values(all.slice(at, at + 5000))
        .onConflictDoNothing();
    await tx.execute(sql`update record set references_version = ${REFERENCES_VERSION} where id = any(${`{${ids.join(",")}}`}::bigint[])`);
    return rows.length;
  });
}

/** Records whose references are not what follows from their fields; has them entered again when asked to. In pages, safe while people work. */
export async function countWrongReferences(repair: boolean): Promise<number> {
  const standing = new Set((await loadRecordTypes()).filter((t) => t.kind === "standing").map((t) => t.key));
  let wrong = 0;
  for (let from = 0; ;) {
    const rows = await db().execute<{
      id: number;
      key: string;
      title: string;
      type: string;
      fields: FieldValues;
      entered: string[] | null;
    }>(sql`
      select r.id, r.key, r.title, r.type, r.fields, (select array_agg(f.kind || ' ' || f.reference) from record_reference f where f.record_id = r.id) as entered
      from record r where r.id > ${from} and r.references_version = ${REFERENCES_VERSION} order by r.id limit ${AT_ONCE}`);
    for (const r of rows.rows) {
      from = r.id;
      const fresh = new Set(referencesOf({ ...r, isStanding: standing.has(r.type) }).map((f) => `${f.kind} ${f.reference}`));
      const entered = r.entered ?? [];
      if (entered.length === fresh.size && entered.every((e) => fresh.has(e))) continue;
      wrong++;
      if (repair) await enterReferences(db(), new Map([[r.id, referencesOf({ ...r, isStanding: standing.has(r.type) })]]));
    }
    if (rows.rows.length < AT_ONCE) return wrong;
  }
}
