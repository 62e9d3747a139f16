import type pg from "pg";
import { z } from "zod";
import { type BusinessRecord, type Client, findRecord, nextNumber, saveRecord } from "./store.ts";

const reference = z.object({ type: z.string().max(40), key: z.string().min(1).max(120) });
/** A draft as it is sent in. */
export const draftSchema = z.object({
  company: z.string().min(1).max(20),
  type: z.string().min(1).max(40),
  title: z.string().min(1).max(300),
  fields: z.record(z.string(), z.string().nullable()),
  lines: z.array(z.record(z.string(), z.string())).max(2000).nullish(),
  parent: reference.nullish(),
  follows: z.array(reference).max(50).default([]),
  paper: z.object({ code: z.string().max(40) }).nullish(),
});
export type Draft = z.infer<typeof draftSchema>;
export interface Refused {
  readonly path: string;
  readonly message: string;
}

/** What drafts of each type are called when they are entered, and what they need. */
const kinds: Readonly<Record<string, { readonly prefix: string; readonly status: string; readonly needs: readonly string[] }>> = {
  supplierInvoice: { prefix: "SI", status: "entered", needs: ["documentNumber", "documentDate", "total"] },
  creditNote: { prefix: "CN", status: "entered", needs: ["documentDate", "total"] },
  journal: { prefix: "J", status: "entered", needs: ["documentDate", "description", "total"] },
  damageClaim: { prefix: "DC", status: "open", needs: ["description"] },
  contact: { prefix: "K", status: "active", needs: ["name"] },
  supplierAccount: { prefix: "S", status: "active", needs: ["name"] },
  customerAccount: { prefix: "C", status: "active", needs: ["name"] },
};
/** Days before this belong to closed periods. */
const OPEN_FROM = "2026-01-01";

/** Enters a draft: the record with its number, or what is wrong with it. The same draft again gives the same record. */
export async function enterDraft(
  client: Client,
  id: string,
  draft: Draft,
): Promise<{ readonly record: BusinessRecord } | { readonly refused: readonly Refused[] }> {
  const known = await client.query("select * from record where draft = $1", [id]);
  if (known.rows[0]) return { record: known.rows[0] as BusinessRecord };
  const kind = kinds[draft.type];
  if (!kind) return { refused: [{ path: "type", message: "cannot be entered as a draft" }] };
  const refused: Refused[] = kind.needs.flatMap((n) => (draft.fields[n] ? [] : [{ path: `fields.${n}`, message: "is needed" }]));
  const f = draft.fields;
  if (draft.parent && !(await findRecord(client, draft.company, draft.parent.type, draft.parent.key)))
    refused.push({ path: "parent", message: "is unknown" });
  if (draft.type === "supplierInvoice" && !draft.parent) refused.push({ path: "parent", message: "a supplier is needed" });
  for (const follow of draft.follows)
    if (!(await findRecord(client, draft.company, follow.type, follow.key)))
      refused.push({ path: "follows", message: `${follow.key} is unknown` });
  const [net, tax, total] = [f["net"], f["tax"], f["total"]].map((t) => (t ? Math.round(Number(t) * 100) : null));
  if (net != null && tax != null && total != null && Math.abs(net + tax - total) > 2)
    refused.push({ path: "fields.total", message: "is not net plus VAT" });
  if (f["documentDate"] && f["documentDate"] < OPEN_FROM)
    refused.push({ path: "fields.documentDate", message: "falls into a closed period" });
  if (f["currency"] && !["GBP", "EUR", "USD", "NOK"].includes(f["currency"]))
    refused.push({ path: "fields.currency", message: "is unknown" });
  if (draft.type === "supplierInvoice" && f["documentNumber"] && draft.parent) {
    const same = await client.query<{ key: string }>(
      `select key from record where company = $1 and type = 'supplierInvoice' and parent ->> 'key' = $2 and lower(regexp_replace(fields ->> 'documentNumber', '\\W', '', 'g')) = lower(regexp_replace($3, '\\W', '', 'g'))`,
      [draft.company, draft.parent.key, f["documentNumber"]],
    );
    if (same.rows[0]) refused.push({ path: "fields.documentNumber", message: `is entered already, as ${same.rows[0].key}` });
  }
  if (draft.type.endsWith("Account"))
    for (const field of ["vatNumber", "iban"]) {
      if (!f[field]) continue;
      const same = await client.query<{ key: string }>(
        `select key from record where company = $1 and type = $2 and regexp_replace(fields ->> $3, '\\W', '', 'g') = regexp_replace($4, '\\W', '', 'g')`,
        [draft.company, draft.type, field, f[field]],
      );
      if (same.rows[0]) refused.push({ path: `fields.${field}`, message: `belongs to ${same.rows[0].key} already` });
    }
  if (refused.length > 0) return { refused };
  const key = await nextNumber(client, draft.company, draft.type, kind.prefix);
  const record: BusinessRecord = {
    company: draft.company,
    type: draft.type,
    key,
    title: draft.title,
    status: kind.status,
    fields: Object.fromEntries(Object.entries(f).flatMap(([k, v]) => (v === null ? [] : [[k, v]]))),
    lines: draft.lines ?? null,
    parent: draft.parent ?? null,
    follows: draft.follows,
    draft: id,
  };
  await saveRecord(client, record);
  return { record };
}

/** Posts an entered invoice, credit or journal: its status, and the ledger entry that follows from it. Twice is once. */
export async function post(client: Client, company: string, type: string, key: string, today: string): Promise<string | null> {
  const found = await lock(client, company, type, key);
  if (!found || !["supplierInvoice", "creditNote", "journal"].includes(type)) return "there is no such record that can be posted";
  if (found.status !== "entered") return found.status === "posted" || found.status === "paid" ? null : `it is ${found.status ?? "closed"}`;
  await saveRecord(client, { ...found, status: "posted" });
  const { documentNumber, total, currency } = found.fields;
  const entry = await nextNumber(client, company, "ledgerEntry", "LE");
  await saveRecord(client, {
    company,
    type: "ledgerEntry",
    key: entry,
    title: `Posted ${documentNumber ?? key}`,
    status: "posted",
    fields: withoutEmpty({ documentNumber: documentNumber ?? key, documentDate: today, description: found.title, total, currency }),
    lines: null,
    parent: null,
    follows: [{ type, key }],
    draft: null,
  });
  return null;
}

/** Pays a posted supplier invoice: its status, and the payment that follows from it. Twice is once. */
export async function pay(client: Client, company: string, key: string, today: string): Promise<string | null> {
  const found = await lock(client, company, "supplierInvoice", key);
  if (!found) return "there is no such invoice";
  if (found.status !== "posted") return found.status === "paid" ? null : "only posted invoices are paid";
  const supplier = found.parent ? await findRecord(client, company, found.parent.type, found.parent.key) : null;
  await saveRecord(client, { ...found, status: "paid" });
  const { documentNumber, total, currency } = found.fields;
  await saveRecord(client, {
    company,
    type: "payment",
    key: await nextNumber(client, company, "payment", "PY"),
    title: `Payment ${supplier?.title ?? key}`,
    status: "sent",
    fields: withoutEmpty({ documentNumber: documentNumber ?? key, documentDate: today, total, currency, iban: supplier?.fields["iban"] }),
    lines: null,
    parent: found.parent,
    follows: [{ type: "supplierInvoice", key }],
    draft: null,
  });
  return null;
}

async function lock(client: Client, company: string, type: string, key: string): Promise<BusinessRecord | null> {
  const found = await client.query("select * from record where company = $1 and type = $2 and key = $3 for update", [company, type, key]);
  return (found.rows[0] as BusinessRecord | undefined) ?? null;
}

const withoutEmpty = (fields: Readonly<Record<string, string | undefined>>): Record<string, string> =>
  Object.fromEntries(Object.entries(fields).flatMap(([k, v]) => (v === undefined || v === "" ? [] : [[k, v]])));

/** What can be made to go wrong, until it is turned off again. */
export const faultsSchema = z.object({
  slowMs: z.coerce.number().int().min(0).max(60_000).default(0),
  refuses: z.boolean().default(false),
  down: z.boolean().default(false),
  /** Drafts are entered, and the line is dropped before the answer. */
  drops: z.boolean().default(false),
});
export type Faults = z.infer<typeof faultsSchema>;

/** The faults that are on. */
export async function loadFaults(pool: pg.Pool): Promise<Faults> {
  const found = await pool.query('select slow_ms as "slowMs", refuses, down, drops from fault');
  return faultsSchema.parse(found.rows[0] ?? {});
}
export async function saveFaults(pool: pg.Pool, f: Faults): Promise<void> {
  await pool.query("update fault set slow_ms = $1, refuses = $2, down = $3, drops = $4", [f.slowMs, f.refuses, f.down, f.drops]);
}
