import { sql } from "drizzle-orm";
import { recordFilter } from "../access/filters.ts";
import { selectPrepared } from "../db/query-prepared.ts";
import type { Actor } from "../people/load-actor.ts";
import { record } from "./tables.ts";

/** One record by company, type and key; null when it is not there for this person. Without a company the only one that fits is taken. */
export async function findVisibleRecord(
  actor: Actor,
  type: string,
  key: string,
  company?: string,
): Promise<typeof record.$inferSelect | null> {
  const inCompany = company === undefined ? sql`true` : sql`record.company = ${company}`;
  const rows = await selectPrepared(record, sql`record.type = ${type} and record.key = ${key} and ${inCompany} and ${recordFilter(actor)}`);
  return rows.length === 1 ? (rows[0] ?? null) : null;
}
