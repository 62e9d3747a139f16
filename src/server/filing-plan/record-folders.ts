import { sql } from "drizzle-orm";
import { db } from "../db/connect.ts";

/** Answers for how many folders it is kept wrongly whose they are (`record_folder`); with `repair` it is kept as the folders say. Safe while documents come in. */
export async function countWrongRecordFolders(repair: boolean): Promise<number> {
  return db().transaction(async (tx) => {
    // Nobody enters one meanwhile.
    if (repair) await tx.execute(sql`lock table folder, record_folder in share row exclusive mode`);
    const { rows } = await tx.execute<{ id: number }>(sql`select coalesce(f.id, o.folder_id) as id
      from (select id, record_id, kind = 'record' as is_own from folder where record_id is not null) f full join record_folder o on o.folder_id = f.id
      where (f.record_id, f.is_own) is distinct from (o.record_id, o.is_own)`);
    if (repair && rows.length > 0) {
      const ids = sql`(select (jsonb_array_elements_text(${JSON.stringify(rows.map((r) => r.id))}::jsonb))::bigint)`;
      await tx.execute(sql`delete from record_folder where folder_id in ${ids}`);
      await tx.execute(sql`insert into record_folder (folder_id, record_id, is_own)
        select id, record_id, kind = 'record' from folder where id in ${ids} and record_id is not null`);
    }
    return rows.length;
  });
}
