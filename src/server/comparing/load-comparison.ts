import { sql } from "drizzle-orm";
import { askForMissing, type PreparedMail } from "#core/comparing/ask-for-missing.ts";
import { compareDelivery } from "#core/comparing/compare-delivery.ts";
import { compareInvoice } from "#core/comparing/compare-invoice.ts";
import { compareStatement } from "#core/comparing/compare-statement.ts";
import { comparedAs, type ComparedAs, parts } from "#core/comparing/compared-as.ts";
import { type Compared, sentenceOf } from "#core/comparing/words.ts";
import { parseArrivalId } from "#core/shared/brand.ts";
import type { Reading, ReadingField } from "#core/reading/reading.ts";
import { type PaperRows, readRows } from "#core/reading/read-rows.ts";
import { rowsOfEInvoice } from "#core/reading/e-invoice.ts";
import { linesOf } from "#core/records/record-line.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { foldText } from "#core/shared/fold-text.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { recordFilter } from "../access/filters.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import type { record } from "../records/tables.ts";
import { loadTolerance } from "../settings/load-settings.ts";
import { loadPaper } from "../matching/load-paper.ts";
import { loadArrivalReading } from "../matching/suggest-for.ts";
import { invoicesOfAccount } from "./invoices-of-account.ts";
import { aroundOrder, orderOf } from "./around-order.ts";

type RecordRow = typeof record.$inferSelect;

/** What came of laying an arrival beside a record, as one person may see it. */
export interface Comparison {
  /** Null where there is nothing to lay it beside. */
  readonly compared: Compared | null;
  /** The record that the document was laid beside. */
  readonly beside: { readonly company: string; readonly type: string; readonly key: string; readonly title: string } | null;
  readonly sentence: { readonly text: string; readonly tone: "good" | "look" | "wrong" | "plain" } | null;
  readonly currency: string | null;
  /** Asks for what a statement lists and we do not have. */
  readonly mail: PreparedMail | null;
}

const NOTHING: Comparison = { compared: null, beside: null, sentence: null, currency: null, mail: null };

/**
 * Lays a waiting document beside the record it is to be clipped to: an invoice beside its order, receipts and earlier invoices; a statement beside the
 * account's invoices; a delivery note beside its order or booking. Only what the person may see is compared and named (promise 6). Refuses not-found.
 */
export async function loadComparison(
  actor: Actor,
  arrivalId: string,
  wish: { readonly type: string; readonly key: string; readonly company: string; readonly documentType: string },
): Promise<Result<Comparison>> {
  const id = parseArrivalId(arrivalId);
  const arrival = id === null ? null : await loadArrival(actor, id);
  if (id === null || !arrival) return refuse("not-found");
  const as = comparedAs(wish.documentType);
  if (as === null) return ok(NOTHING);
  const row = await findVisibleRecord(actor, wish.type, wish.key, wish.company);
  if (!row) return refuse("not-found");
  const rows = await rowsOf(id);
  if (as === "statement") return ok(await statement(actor, arrival.readings, id, rows, row));
  if (as === "delivery") return ok(await delivery(actor, arrival.readings, id, rows, row));
  return ok(await invoice(actor, as, arrival.readings, id, rows, row));
}

/** The tables of an arrival's document, as they were read; read now where that was before there were any. */
async function rowsOf(arrivalId: string): Promise<PaperRows> {
  const kept = (await loadArrivalReading(db(), arrivalId))?.rows;
  // Kept by suggest-for, whose shape it is.
  if (kept !== null && kept !== undefined) return kept as PaperRows;
  const paper = await loadPaper(db(), arrivalId);
  if (!paper) return { lines: [], invoices: [], isWhole: false };
  return paper.invoice ? rowsOfEInvoice(paper.invoice) : readRows(paper.pages);
}

const valueOf = (readings: readonly Reading[], field: ReadingField): string | null =>
  readings.find((r) => r.field === field)?.value ?? null;
const named = ({ company, type, key, title }: RecordRow) => ({ company, type, key, title });
const textOf = (fields: unknown, key: string): string | null => {
  const value = (fields as FieldValues)[key];
  return typeof value === "string" && value !== "" ? value : null;
};

async function invoice(
  actor: Actor,
  as: Exclude<ComparedAs, "statement" | "delivery">,
  readings: readonly Reading[],
  arrivalId: string,
  rows: PaperRows,
  row: RecordRow,
): Promise<Comparison> {
  const order = await orderOf(actor, row);
  if (!order) return NOTHING;
  const around = await aroundOrder(actor, order, arrivalId, row.id);
  const currency = valueOf(readings, "currency") ?? order.currency;
  const compared = compareInvoice({
    paper: {
      number: valueOf(readings, "documentNumber"),
      date: valueOf(readings, "documentDate"),
      currency: valueOf(readings, "currency"),
      net: valueOf(readings, "net"),
      total: valueOf(readings, "total"),
      lines: rows.lines,
      isCredit: as === "credit",
    },
    order: {
      key: order.key,
      currency: order.currency,
      net: textOf(order.fields, "net") ?? order.amount,
      total: textOf(order.fields, "total"),
      lines: linesOf(order.lines),
    },
    receipts: as === "confirmation" ? null : around.receipts,
    earlier: as === "invoice" ? around.invoices : [],
    tolerance: await loadTolerance(),
  });
  return { compared, beside: named(order), sentence: sentenceOf(compared, order.key, currency), currency, mail: null };
}

async function statement(
  actor: Actor,
  readings: readonly Reading[],
  arrivalId: string,
  rows: PaperRows,
  row: RecordRow,
): Promise<Comparison> {
  const account = await invoicesOfAccount(actor, row, arrivalId);
  if (!account) return NOTHING;
  const asOf = valueOf(readings, "documentDate");
  const currency = valueOf(readings, "currency") ?? account.currency;
  const compared = compareStatement({ stated: rows.invoices, total: valueOf(readings, "total"), asOf, known: account.invoices });
  const mail = askForMissing({
    lines: compared.lines,
    to: account.email,
    language: valueOf(readings, "language"),
    asOf,
    currency,
    signature: actor.name,
  });
  return { compared, beside: account.named, sentence: sentenceOf(compared, account.named.key, currency), currency, mail };
}

async function delivery(
  actor: Actor,
  readings: readonly Reading[],
  arrivalId: string,
  rows: PaperRows,
  row: RecordRow,
): Promise<Comparison> {
  const order = row.type === parts.booking || row.type === parts.loading ? row : await orderOf(actor, row);
  if (!order) return NOTHING;
  const receipts = order.type === parts.order ? (await aroundOrder(actor, order, arrivalId, row.id)).receipts : [];
  const paper = await loadPaper(db(), arrivalId);
  const compared = compareDelivery({
    paper: rows.lines,
    ordered: linesOf(order.lines),
    receipts: receipts.map((r) => r.lines),
    fields: fieldsBeside(readings, order, foldText(paper?.text ?? ""), await vesselNames(actor, order.company)),
    tolerance: await loadTolerance(),
  });
  return {
    compared,
    beside: named(order),
    sentence: sentenceOf(compared, order.key, order.currency),
    currency: order.currency,
    mail: null,
  };
}

/** What document and record both say in words: the sailing, the shipper's reference, the vessel that is named. */
function fieldsBeside(
  readings: readonly Reading[],
  order: RecordRow,
  folded: string,
  vessels: readonly string[],
): readonly { readonly field: string; readonly paper: string; readonly record: string }[] {
  const pairs: { field: string; paper: string; record: string }[] = [];
  const sailing = readings.find((r) => r.field === "sailingDate" && r.certainty >= 0.7)?.value;
  const booked = textOf(order.fields, "sailingDate");
  if (sailing && booked) pairs.push({ field: "Sailing", paper: sailing, record: booked });
  const vessel = textOf(order.fields, "vessel");
  if (vessel && !folded.includes(foldText(vessel))) {
    const other = vessels.find((v) => folded.includes(foldText(v)));
    if (other) pairs.push({ field: "Vessel", paper: other, record: vessel });
  } else if (vessel) pairs.push({ field: "Vessel", paper: vessel, record: vessel });
  return pairs;
}

async function vesselNames(actor: Actor, company: string): Promise<readonly string[]> {
  const rows = await db().execute<{ title: string }>(
    sql`select r.title from record r where r.type = 'vessel' and r.company = ${company} and ${recordFilter(actor, "see", sql`r`)} order by r.id limit 200`,
  );
  return rows.rows.map((r) => r.title);
}
