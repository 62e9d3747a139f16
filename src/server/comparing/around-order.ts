import { sql } from "drizzle-orm";
import type { EarlierInvoice } from "#core/comparing/compare-invoice.ts";
import { parts } from "#core/comparing/compared-as.ts";
import { linesOfPaper } from "#core/drafts/fill-draft.ts";
import type { PaperRows } from "#core/reading/read-rows.ts";
import { linesOf, type RecordLine } from "#core/records/record-line.ts";
import { foldReference } from "#core/shared/fold-text.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { record } from "../records/tables.ts";

type RecordRow = typeof record.$inferSelect;

/** Receipts and invoices looked at of one order. */
const AROUND_MAX = 200;

/** The order that a record is, or belongs to by its chain; null when there is none, or several, that the person may see. */
export async function orderOf(actor: Actor, row: RecordRow): Promise<RecordRow | null> {
  if (row.type === parts.order) return row;
  if (row.chainId === null) return null;
  const rows = await db()
    .select()
    .from(record)
    .where(sql`record.chain_id = ${row.chainId} and record.type = ${parts.order} and ${recordFilter(actor)}`)
    .limit(10);
  const own = rows.filter((o) => o.key === (row.fields as Record<string, unknown>)["orderNumber"]);
  return own[0] ?? (rows.length === 1 ? (rows[0] ?? null) : null);
}

/** What was received and invoiced of an order so far, by records and by documents that are filed to it but not posted yet. */
export async function aroundOrder(
  actor: Actor,
  order: RecordRow,
  arrivalId: string,
  /** The record that the document itself is to be clipped to: it is no earlier invoice. */
  itself: number,
): Promise<{
  readonly receipts: readonly { readonly key: string; readonly date: string | null; readonly lines: readonly RecordLine[] }[];
  readonly invoices: readonly EarlierInvoice[];
}> {
  const rows = (
    await db().execute<{
      type: string;
      key: string;
      date: string | null;
      fields: Record<string, unknown>;
      lines: unknown;
      status: string | null;
    }>(sql`
      select r.type, r.key, r.date, r.fields, r.lines, r.status from record r
      where r.company = ${order.company} and r.type in (${parts.receipt}, ${parts.invoice}) and ${recordFilter(actor, "see", sql`r`)}
        and r.status is distinct from 'draft' and r.chain_id = ${order.chainId} and r.id <> ${itself}
        and (r.fields ->> 'orderNumber' = ${order.key} or exists (select from record_follow f where f.record_id = r.id and f.earlier_id = ${order.id}))
      order by r.date nulls last, r.id limit ${AROUND_MAX}`)
  ).rows;
  const text = (fields: Record<string, unknown>, key: string): string | null => (typeof fields[key] === "string" ? fields[key] : null);
  const posted = rows
    .filter((r) => r.type === parts.invoice)
    .map((r) => ({
      key: r.key,
      number: text(r.fields, "documentNumber"),
      date: text(r.fields, "documentDate") ?? r.date,
      net: text(r.fields, "net"),
      total: text(r.fields, "total"),
      lines: linesOf(r.lines),
    }));
  const numbers = new Set(posted.flatMap((p) => (p.number === null ? [] : [foldReference(p.number)])));
  const filed = (
    await db().execute<{ code: string; properties: Record<string, unknown>; rows: unknown }>(sql`
      select d.code, d.properties, f.rows from clip c join document d on d.id = c.document_id
        left join arrival a on a.document_id = d.id left join arrival_reading f on f.arrival_id = a.id
      where c.record_id = ${order.id} and d.document_type = 'supplierInvoice' and d.unfiled_at is null and a.id is distinct from ${arrivalId}::uuid
        and ${await documentFilter(actor, "see", sql`d.acl_id`)}
      order by d.id limit ${AROUND_MAX}`)
  ).rows
    .map((d) => ({
      key: d.code,
      number: text(d.properties, "documentNumber"),
      date: text(d.properties, "documentDate"),
      net: text(d.properties, "net"),
      total: text(d.properties, "total"),
      // Kept by suggest-for, whose shape it is.
      lines: linesOfPaper((d.rows as PaperRows | null)?.lines ?? []),
    }))
    .filter((d) => d.number === null || !numbers.has(foldReference(d.number)));
  return {
    receipts: rows.filter((r) => r.type === parts.receipt).map((r) => ({ key: r.key, date: r.date, lines: linesOf(r.lines) })),
    invoices: [...posted, ...filed],
  };
}
