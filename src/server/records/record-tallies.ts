import { sql } from "drizzle-orm";
import { db } from "../db/connect.ts";

/** So many rows of tallies are read in no time. */
const TALLIES_FEW = 500;

/** Adds up what was entered one by one, so that it stays few rows. Safe beside others: each row is taken by one. */
export async function addUpTallies(): Promise<void> {
  await db()
    .execute(sql`with taken as (delete from record_tally where (select count(*) from (select from record_tally limit ${TALLIES_FEW + 1}) r) > ${TALLIES_FEW} returning company, type, count)
    insert into record_tally (company, type, count) select company, type, sum(count) from taken group by company, type`);
}

/** Answers for how many types and companies the tally is wrong; with `repair` what differs is added. Safe while records come in. */
export async function countWrongTallies(repair: boolean): Promise<number> {
  return db().transaction(async (tx) => {
    // Both are of one moment, and what is added stands beside what others add.
    const { rows } = await tx.execute<{
      company: string;
      type: string;
      lacks: number;
    }>(sql`select company, type, sum(n)::bigint as lacks from
      (select company, type, count(*) as n from record group by company, type union all select company, type, -count from record_tally) both_of
      group by company, type having sum(n) <> 0`);
    if (repair)
      for (const { company, type, lacks } of rows)
        await tx.execute(sql`insert into record_tally (company, type, count) values (${company}, ${type}, ${lacks})`);
    return rows.length;
  });
}
