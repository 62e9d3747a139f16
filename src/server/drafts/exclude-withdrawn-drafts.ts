import { type SQL, sql } from "drizzle-orm";

/**
 * Leaves out, of the table named `r` or as given, what never was a record: one that was made from a document and taken back before anybody entered it.
 * Nothing is to be clipped to it, and its own document would fit nothing as well.
 */
export function excludeWithdrawnDrafts(record: SQL = sql`r`): SQL {
  return sql`not exists (select from draft w where w.record_id = ${record}.id and w.state = 'withdrawn')`;
}
