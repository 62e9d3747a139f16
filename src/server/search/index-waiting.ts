import { sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { db } from "../db/connect.ts";
import { pgCode } from "../db/describe-error.ts";
import { textArray } from "../db/sql-arrays.ts";
import { indexText } from "./index-document.ts";

/** Characters of running text that are searched. */
const INDEXED_MAX = 400_000;
/** Arrivals entered in one run of the upkeep. */
const AT_ONCE = 200;

type Row = { id: string; file_name: string; sender: string | null; body: string | null };

/** Enters the waiting arrivals that hold a content into Find, with all that is known of its words. Safe to repeat. */
export async function indexWaiting(sha256: string): Promise<void> {
  const { rows } = await db().execute<Row>(sql`select a.id, a.file_name, a.sender, left(c.body, ${INDEXED_MAX}) as body
    from arrival a join content c on c.sha256 = a.sha256 where a.sha256 = ${sha256} and a.state = any(${textArray(openStates)}::text[])`);
  for (const row of rows) await enter(row);
}

/** Enters waiting arrivals that are missing in Find, and takes out those that wait no longer. Answers how many were entered. */
export async function keepWaitingIndex(): Promise<number> {
  await db().execute(
    sql`delete from search_waiting w using arrival a where a.id = w.arrival_id and a.state <> all(${textArray(openStates)}::text[])`,
  );
  const { rows } = await db().execute<Row>(sql`select a.id, a.file_name, a.sender, left(c.body, ${INDEXED_MAX}) as body
    from arrival a join content c on c.sha256 = a.sha256
    where a.state in ('ready', 'failed') and not exists (select from search_waiting w where w.arrival_id = a.id) limit ${AT_ONCE}`);
  for (const row of rows) await enter(row);
  return rows.length;
}

async function enter(row: Row): Promise<void> {
  const head = `${row.file_name} ${row.sender ?? ""}`;
  for (let room = INDEXED_MAX; ; room = Math.floor(room / 2)) {
    try {
      await db().execute(sql`insert into search_waiting (arrival_id, tsv)
        values (${row.id}::uuid, setweight(to_tsvector('simple', ${indexText(head)}), 'A') || to_tsvector('simple', ${indexText((row.body ?? "").slice(0, room))}))
        on conflict (arrival_id) do update set tsv = excluded.tsv`);
      return;
    } catch (error) {
      // 54000: more different words than a text vector holds. Half of them is better than none.
      if (pgCode(error) !== "54000" || room < 1000) throw error;
    }
  }
}
