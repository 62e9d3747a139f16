import { sql } from "drizzle-orm";
import type { Reading } from "#core/reading/reading.ts";
import { db } from "../db/connect.ts";
import { accountOfDocument, confirmedOf, learn } from "./learn-from-filing.ts";
import { fieldPlace } from "./tables.ts";

/** Arrivals learnt from in one go. */
const AT_ONCE = 200;

/**
 * Forgets all that was learnt of senders' layouts, and learns it again from the confirmed history: what people pointed at, and the properties that documents
 * were filed with, in the order it was confirmed. The result is the same. Answers how many places there were and are.
 */
export async function relearn(): Promise<{ readonly before: number; readonly after: number }> {
  return db().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(730031)`);
    // When and by whom something was confirmed stands.
    const kept = await tx
      .select({
        arrivalId: fieldPlace.arrivalId,
        field: fieldPlace.field,
        value: fieldPlace.value,
        madeAt: fieldPlace.madeAt,
        madeBy: fieldPlace.madeBy,
      })
      .from(fieldPlace);
    const confirmedAt = new Map(kept.map((k) => [`${k.arrivalId} ${k.field} ${k.value}`, k]));
    await tx.execute(sql`delete from field_place`);
    let after = 0;
    for (let from = 0; ;) {
      const rows = await tx.execute<{
        id: string;
        number: number;
        document_id: number | null;
        properties: unknown;
        filed_by: string | null;
        filed_at: Date | null;
        unfiled_at: Date | null;
        readings: unknown;
        made_at: Date | null;
      }>(sql`
        select a.id, a.number, d.id as document_id, d.properties, d.filed_by, d.filed_at, d.unfiled_at, f.readings, f.made_at
        from arrival a left join document d on d.id = a.document_id left join arrival_reading f on f.arrival_id = a.id
        where a.number > ${from} and (d.id is not null or f.readings @> '[{"from": "person"}]') order by a.number limit ${AT_ONCE}`);
      for (const row of rows.rows) {
        from = row.number;
        const pointed = ((Array.isArray(row.readings) ? row.readings : []) as readonly Reading[])
          .filter((r) => r.from === "person" && r.page !== null && r.box !== null)
          .map((r) => ({
            field: r.field,
            value: r.value,
            pointed: r.page !== null && r.box !== null ? { page: r.page, box: r.box } : null,
          }));
        const isFiled = row.document_id !== null && row.unfiled_at === null;
        const account = isFiled && row.document_id !== null ? await accountOfDocument(tx, row.document_id) : null;
        const at = (c: { readonly field: string; readonly value: string }): { madeAt: Date; madeBy: string } => {
          const known = confirmedAt.get(`${row.id} ${c.field} ${c.value}`);
          return { madeAt: known?.madeAt ?? new Date(row.filed_at ?? row.made_at ?? 0), madeBy: known?.madeBy ?? row.filed_by ?? "" };
        };
        after += await learn(tx, row.id, [...pointed, ...(isFiled ? confirmedOf(row.properties) : [])], at, account);
      }
      if (rows.rows.length < AT_ONCE) break;
    }
    return { before: kept.length, after };
  });
}
