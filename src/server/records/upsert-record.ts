import { and, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsRecord } from "#core/access/grants.ts";
import { wordsOf } from "#core/search/parse-find.ts";
import { foldReference, foldText } from "#core/shared/fold-text.ts";
import { type FieldError, ok, refuse, type Result } from "#core/shared/result.ts";
import { isCalendarDay, parseFieldValues } from "#core/records/parse-field-values.ts";
import { recordLinesSchema } from "#core/records/record-line.ts";
import { lookupTextOf } from "#core/records/lookup-text.ts";
import { referencesOf, REFERENCES_VERSION } from "#core/records/record-references.ts";
import type { FieldValues, RecordType } from "#core/records/record-type.ts";
import { db, type Tx } from "../db/connect.ts";
import { findRecord } from "./find-record.ts";
import { refreshChildDocuments } from "../clips/refresh-child-documents.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadRecordType } from "./load-types.ts";
import { finishUpserts, type Remainder, emptyUpsertBatch } from "./finish-upserts.ts";
import { record } from "./tables.ts";

const reference = z.object({ type: z.string().max(40), key: z.string().min(1).max(120) });

/** A record as a business system tells it. What is left out stays as it was. */
export const recordInputSchema = z.object({
  title: z.string().trim().min(1).max(300),
  fields: z.record(z.string(), z.unknown()).default({}),
  status: z.string().max(60).nullish(),
  date: z.string().refine(isCalendarDay, "must be a date like 2026-11-18").nullish(),
  amount: z
    .union([z.string(), z.number()])
    .transform(String)
    .refine((t) => /^-?\d{1,15}(\.\d{1,6})?$/.test(t), "must be a number like 1234.56")
    .nullish(),
  currency: z
    .string()
    .regex(/^[A-Z]{3}$/, "must be three capitals like GBP")
    .nullish(),
  parent: reference.nullish(),
  /** Lines of an order, receipt or invoice; they take the place of those before. */
  lines: recordLinesSchema.nullish(),
  follows: z.array(reference).max(50).optional(),
});
export type RecordInput = z.infer<typeof recordInputSchema>;

/** Longest key of a record. */
export const KEY_MAX = 120;

/**
 * Inserts or updates a record, found by company, type and key. Twice is once. Its account above and the records it follows
 * must be there already. Refuses not-allowed, unknown-type, unknown-record and bad-input (with the fields). Answers whether it was new.
 */
export async function upsertRecord(
  actor: Actor,
  company: string,
  typeKey: string,
  key: string,
  input: RecordInput,
): Promise<Result<{ id: number; made: boolean }>> {
  if (!allowsRecord(actor.grants, "import", company, typeKey)) return refuse("not-allowed");
  const type = await loadRecordType(typeKey);
  if (!type) return refuse("unknown-type");
  return db().transaction((tx) => upsertIn(tx, actor, company, type, key, input));
}

/** The same inside a transaction. A refusal leaves nothing behind of its own. */
export async function upsertIn(
  tx: Tx,
  actor: Actor,
  company: string,
  type: RecordType,
  key: string,
  input: RecordInput,
): Promise<Result<{ id: number; made: boolean }>> {
  const left = emptyUpsertBatch();
  const saved = await enterRecord(tx, left, actor, company, type, key, input);
  await finishUpserts(tx, left);
  return saved;
}

/** One of many records of a transaction: as `upsertIn`, but what can be done for all at once is left to `finishUpserts`. */
export async function enterRecord(
  tx: Tx,
  left: Remainder,
  actor: Actor,
  company: string,
  type: RecordType,
  key: string,
  input: RecordInput,
): Promise<Result<{ id: number; made: boolean }>> {
  const errors: FieldError[] = [];
  const cleanKey = key.trim();
  // oxlint-disable-next-line no-control-regex -- control characters are what is looked for
  if (cleanKey === "" || cleanKey.length > KEY_MAX || /[\u0000-\u001f]/.test(cleanKey))
    errors.push({ path: "key", message: `must be 1 to ${KEY_MAX} characters` });
  const parsed = parseFieldValues(type.fields, input.fields);
  errors.push(...parsed.errors);
  const idOf = async (of: { readonly type: string; readonly key: string }): Promise<number | null> => {
    const name = JSON.stringify([company, of.type, of.key]);
    const id = left.named.get(name) ?? (await findRecord(tx, company, of.type, of.key));
    if (id !== null) left.named.set(name, id);
    return id;
  };
  const parent = input.parent ? await idOf(input.parent) : null;
  if (input.parent && !parent) return refuse("unknown-record", `parent: ${input.parent.type} ${input.parent.key}`);
  if (input.parent && !type.parent.includes(input.parent.type))
    errors.push({ path: "parent.type", message: `${type.plural} are not a parent of this type` });
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  const earlier: number[] = [];
  for (const follow of input.follows ?? []) {
    const found = await idOf(follow);
    if (found === null) return refuse("unknown-record", `follows: ${follow.type} ${follow.key}`);
    earlier.push(found);
  }
  const before = (
    await tx
      .select()
      .from(record)
      .where(and(eq(record.company, company), eq(record.type, type.key), eq(record.key, cleanKey)))
      .for("update")
  )[0];
  if (before && earlier.includes(before.id))
    return refuse("bad-input", undefined, [{ path: "follows", message: "a record cannot follow itself" }]);
  if (before && parent !== null && (await isChild(tx, parent, before.id)))
    return refuse("bad-input", undefined, [{ path: "parent", message: "would make the record its own parent" }]);
  const fields: FieldValues = { ...((before?.fields as FieldValues | undefined) ?? {}), ...parsed.values };
  const values = {
    title: input.title,
    status: input.status === undefined ? (before?.status ?? null) : input.status,
    date: input.date ?? dateFrom(type, fields) ?? before?.date ?? null,
    amount: input.amount === undefined ? (before?.amount ?? amountFrom(fields)) : input.amount,
    currency: input.currency === undefined ? (before?.currency ?? textOf(fields["currency"])) : input.currency,
    fields,
    lines: input.lines === undefined ? (before?.lines ?? null) : input.lines,
    parentId: input.parent === undefined ? (before?.parentId ?? null) : parent,
    keyFolded: foldReference(cleanKey),
    titleFolded: foldText(input.title),
    lookupText: lookupTextOf(cleanKey, input.title, fields),
    referencesVersion: REFERENCES_VERSION,
    usedAt: now(),
    changedAt: now(),
  };
  const saved = await tx
    .insert(record)
    .values({ company, type: type.key, key: cleanKey, madeAt: now(), ...values })
    .onConflictDoUpdate({ target: [record.company, record.type, record.key], set: values })
    .returning({ id: record.id });
  const id = saved[0]?.id;
  if (id === undefined) throw new Error("record was not saved");
  left.references.set(id, referencesOf({ key: cleanKey, title: input.title, isStanding: type.kind === "standing", fields }));
  if (earlier.length > 0) left.follows.push({ id, earlier });
  if (before?.title !== input.title)
    for (const word of wordsOf(input.title)) if (word.length >= 4 && word.length <= 40) left.titleWords.add(word);
  if (before && before.parentId !== values.parentId) await refreshChildDocuments(tx, id);
  const changed = before ? changedFields(before, values) : [];
  if (!before || changed.length > 0) left.changed.add(id);
  if (!before) left.lines.push({ verb: "recordMade", who: actor.id, company, recordId: id });
  else if (changed.length > 0)
    left.lines.push({ verb: "recordChanged", who: actor.id, company, recordId: id, details: { fields: changed.join(", ") } });
  return ok({ id, made: !before });
}

async function isChild(tx: Tx, id: number, parentId: number): Promise<boolean> {
  const rows = await tx.execute<{ hit: boolean }>(sql`with recursive up as (
    select id, above_id from record where id = ${id} union select r.id, r.above_id from record r join up on r.id = up.above_id)
    select exists (select 1 from up where id = ${parentId}) as hit`);
  return rows.rows[0]?.hit === true;
}

const textOf = (value: unknown): string | null => (typeof value === "string" ? value.slice(0, 3) : null);
const amountFrom = (fields: FieldValues): string | null => (typeof fields["total"] === "string" ? fields["total"] : null);

function dateFrom(type: RecordType, fields: FieldValues): string | null {
  const value = type.dateField ? fields[type.dateField] : null;
  return typeof value === "string" ? value : null;
}

function changedFields(
  before: typeof record.$inferSelect,
  after: {
    readonly title: string;
    readonly status: string | null;
    readonly parentId: number | null;
    readonly fields: FieldValues;
    readonly amount: string | null;
    readonly lines: unknown;
  },
): readonly string[] {
  const old = before.fields as FieldValues;
  const basics = [
    before.title !== after.title ? "title" : null,
    before.status !== after.status ? "status" : null,
    before.parentId !== after.parentId ? "account" : null,
    Number(before.amount) !== Number(after.amount) ? "amount" : null,
    JSON.stringify(before.lines ?? null) !== JSON.stringify(after.lines ?? null) ? "lines" : null,
  ].filter((n) => n !== null);
  return [...basics, ...Object.keys(after.fields).filter((k) => (old[k] ?? null) !== (after.fields[k] ?? null))];
}
