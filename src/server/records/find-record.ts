import { and, eq } from "drizzle-orm";
import type { Tx } from "../db/connect.ts";
import { record } from "./tables.ts";

/** The id of a record by company, type and key; null when there is none. */
export async function findRecord(tx: Tx, company: string, type: string, key: string): Promise<number | null> {
  const rows = await tx
    .select({ id: record.id })
    .from(record)
    .where(and(eq(record.company, company), eq(record.type, type), eq(record.key, key)));
  return rows[0]?.id ?? null;
}
