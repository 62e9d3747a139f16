import { and, eq } from "drizzle-orm";
import { recordFilter } from "../access/filters.ts";
import { askSelect } from "../db/ask.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { record } from "./tables.ts";

/** One record by company, type and key; null when it is not there for this person. Without a company the only one that fits is taken. */
export async function findVisibleRecord(
  actor: Actor,
  type: string,
  key: string,
  company?: string,
): Promise<typeof record.$inferSelect | null> {
  const rows = await askSelect(
    db()
      .select()
      .from(record)
      .where(
        and(
          eq(record.type, type),
          eq(record.key, key),
          ...(company === undefined ? [] : [eq(record.company, company)]),
          recordFilter(actor),
        ),
      ),
  );
  return rows.length === 1 ? (rows[0] ?? null) : null;
}
