import { sql } from "drizzle-orm";
import type { KnownInvoice } from "#core/comparing/compare-statement.ts";
import { paidWords, parts } from "#core/comparing/compared-as.ts";
import { arrivalFilter, documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { record } from "../records/tables.ts";

type RecordRow = typeof record.$inferSelect;

/** Invoices of one account that a statement is laid beside, the latest. */
const INVOICES_MAX = 5000;

export interface AccountInvoices {
  readonly named: { readonly company: string; readonly type: string; readonly key: string; readonly title: string };
  readonly email: string | null;
  readonly currency: string | null;
  readonly invoices: readonly KnownInvoice[];
}

/**
 * The invoices of an account that we know: posted ones, filed documents, and documents that wait and were read. Of a record beneath an account the account is
 * taken. Null when the person may not see it.
 */
export async function invoicesOfAccount(actor: Actor, row: RecordRow, arrivalId: string): Promise<AccountInvoices | null> {
  const account = row.type.endsWith("Account") ? row : row.parentId === null ? null : await visible(actor, row.parentId);
  if (!account) return null;
  const text = (fields: Record<string, unknown>, key: string): string | null =>
    typeof fields[key] === "string" && fields[key] !== "" ? fields[key] : null;
  const seen = await documentFilter(actor, "see", sql`d.acl_id`);
  const posted = await db().execute<{
    key: string;
    status: string | null;
    fields: Record<string, unknown>;
    papers: boolean;
    paid: boolean;
  }>(sql`
    select r.key, r.status, r.fields,
      exists (select from clip c join document d on d.id = c.document_id where c.record_id = r.id and ${seen}) as papers,
      exists (select from record_follow f join record p on p.id = f.record_id where f.earlier_id = r.id and p.type = ${parts.payment} and ${recordFilter(actor, "see", sql`p`)}) as paid
    from record r where r.above_id = ${account.id} and r.type = ${parts.invoice} and r.status is distinct from 'draft' and ${recordFilter(actor, "see", sql`r`)}
    order by r.date desc nulls last, r.id desc limit ${INVOICES_MAX}`);
  const filed = await db().execute<{ code: string; title: string; properties: Record<string, unknown> }>(sql`
    select distinct on (d.id) d.code, d.title, d.properties, d.id from document d join clip c on c.document_id = d.id join record r on r.id = c.record_id
    where (r.id = ${account.id} or r.above_id = ${account.id}) and d.document_type in ('supplierInvoice', 'supplierCreditNote') and d.unfiled_at is null and ${seen}
    order by d.id desc limit ${INVOICES_MAX}`);
  const waiting = await db().execute<{ id: string; name: string; readings: readonly { field: string; value: string }[] }>(sql`
    select arrival.id, arrival.file_name as name, f.readings from arrival_reading f join arrival on arrival.id = f.arrival_id
    where f.sender_id = ${account.id} and arrival.id <> ${arrivalId}::uuid and arrival.state in ('waiting','reading','ready','failed')
      and f.types -> 0 ->> 'type' in ('supplierInvoice', 'supplierCreditNote') and ${await arrivalFilter(actor)} limit ${INVOICES_MAX}`);
  return {
    named: { company: account.company, type: account.type, key: account.key, title: account.title },
    email: text(account.fields as Record<string, unknown>, "email"),
    currency: account.currency ?? text(account.fields as Record<string, unknown>, "currency"),
    invoices: [
      ...posted.rows.map((r) => ({
        number: text(r.fields, "documentNumber"),
        date: text(r.fields, "documentDate"),
        total: text(r.fields, "total"),
        currency: text(r.fields, "currency"),
        as: "record" as const,
        isPaid: r.paid || paidWords.test(r.status ?? ""),
        hasPaper: r.papers,
        at: `${parts.invoice}:${r.key}`,
        label: r.key,
      })),
      ...filed.rows.map((d) => ({
        number: text(d.properties, "documentNumber"),
        date: text(d.properties, "documentDate"),
        total: text(d.properties, "total"),
        currency: text(d.properties, "currency"),
        as: "document" as const,
        isPaid: false,
        hasPaper: true,
        at: d.code,
        label: d.code,
      })),
      ...waiting.rows.map((a) => {
        const value = (field: string): string | null => a.readings.find((r) => r.field === field)?.value ?? null;
        return {
          number: value("documentNumber"),
          date: value("documentDate"),
          total: value("total"),
          currency: value("currency"),
          as: "arrival" as const,
          isPaid: false,
          hasPaper: true,
          at: a.id,
          label: a.name,
        };
      }),
    ],
  };
}

async function visible(actor: Actor, id: number): Promise<RecordRow | null> {
  const rows = await db()
    .select()
    .from(record)
    .where(sql`record.id = ${id} and ${recordFilter(actor)}`);
  return rows[0] ?? null;
}
