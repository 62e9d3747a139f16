import { and, desc, eq, ne } from "drizzle-orm";
import { foldReference } from "#core/shared/fold-text.ts";
import { placeOfValue, type Pointed } from "#core/reading/learn-layout.ts";
import { type Reading, type ReadingField, readingFields } from "#core/reading/reading.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { clip } from "../clips/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { document } from "../documents/tables.ts";
import { arrival } from "../arrivals/tables.ts";
import { now } from "../ports/clock.ts";
import { record } from "../records/tables.ts";
import { loadPaper } from "./load-paper.ts";
import { loadArrivalReading } from "./suggest-for.ts";
import { arrivalReading, fieldPlace, forgottenSender } from "./tables.ts";

/** What a person confirmed of a document: the value of a field, and where they pointed. */
export interface Confirmed {
  readonly field: ReadingField;
  readonly value: string;
  readonly pointed: Pointed | null;
}

/** Properties of documents that are fields of documents; the order's number is read as a reference to it. */
export const fieldOfProperty: Readonly<Record<string, ReadingField>> = {
  ...Object.fromEntries(readingFields.map((f) => [f, f])),
  orderNumber: "orderReference",
};

/**
 * Learns where the sender of a filed document keeps its fields, from the properties it was filed with. What the program had read right counts as confirmed
 * too. Safe to repeat: a document teaches each of its fields once.
 */
export async function learnFromFiling(documentId: number): Promise<number> {
  const found = (
    await db()
      .select({ document, arrivalId: arrival.id })
      .from(document)
      .innerJoin(arrival, eq(arrival.documentId, document.id))
      .where(eq(document.id, documentId))
      .orderBy(desc(arrival.number))
      .limit(1)
  )[0];
  if (!found || found.document.unfiledAt !== null) return 0;
  const { filedBy } = found.document;
  return learn(
    db(),
    found.arrivalId,
    confirmedOf(found.document.properties),
    () => ({ madeAt: now(), madeBy: filedBy }),
    await accountOfDocument(db(), documentId),
  );
}

/** What the properties of a document confirm of its document. */
export function confirmedOf(properties: unknown): readonly Confirmed[] {
  return Object.entries((properties ?? {}) as FieldValues).flatMap(([property, value]): Confirmed[] => {
    const field = fieldOfProperty[property];
    return field && typeof value === "string" && value !== "" ? [{ field, value, pointed: null }] : [];
  });
}

/** Keeps where confirmed values stand on their document, for its sender. Answers how many were learnt. */
export async function learn(
  tx: Tx,
  arrivalId: string,
  confirmed: readonly Confirmed[],
  by: (confirmed: Confirmed) => { readonly madeAt: Date; readonly madeBy: string },
  accountId: number | null,
): Promise<number> {
  if (confirmed.length === 0) return 0;
  const paper = await loadPaper(tx, arrivalId);
  const kept = await loadArrivalReading(tx, arrivalId);
  // The record it was filed to says best whose document it is.
  const senderKey = accountId !== null ? `account:${accountId}` : (kept?.senderKey ?? null);
  if (!paper || senderKey === null) return 0;
  const forgotten = (
    await tx.select({ at: forgottenSender.forgottenAt }).from(forgottenSender).where(eq(forgottenSender.senderKey, senderKey))
  )[0];
  const read = (Array.isArray(kept?.readings) ? kept.readings : []) as readonly Reading[];
  const rows = confirmed.flatMap((c) => {
    const { field, value, pointed } = c;
    const place = placeOfValue(paper.pages, field, value, pointed);
    const { madeAt, madeBy } = by(c);
    if (!place || (forgotten && madeAt <= forgotten.at)) return [];
    const wasRight =
      kept === null ? null : read.some((r) => r.field === field && r.from !== "person" && foldReference(r.value) === foldReference(value));
    return [{ senderKey, arrivalId, value, wasRight, madeAt, madeBy, ...place }];
  });
  // What was confirmed before and put right since teaches no more.
  for (const { field, value } of confirmed)
    await tx.delete(fieldPlace).where(and(eq(fieldPlace.arrivalId, arrivalId), eq(fieldPlace.field, field), ne(fieldPlace.value, value)));
  const made = rows.length === 0 ? [] : await tx.insert(fieldPlace).values(rows).onConflictDoNothing().returning({ id: fieldPlace.id });
  // The same value, confirmed under a sender that is known better now.
  await tx
    .update(fieldPlace)
    .set({ senderKey })
    .where(and(eq(fieldPlace.arrivalId, arrivalId), ne(fieldPlace.senderKey, senderKey)));
  if (kept && kept.senderKey !== senderKey)
    await tx.update(arrivalReading).set({ senderKey }).where(eq(arrivalReading.arrivalId, arrivalId));
  return made.length;
}

/** The account that a document belongs to: the one it is clipped to, or the one above its record. */
export async function accountOfDocument(tx: Tx, documentId: number): Promise<number | null> {
  const rows = await tx
    .select({ id: record.id, type: record.type, aboveId: record.parentId })
    .from(clip)
    .innerJoin(record, eq(record.id, clip.recordId))
    .where(eq(clip.documentId, documentId))
    .orderBy(clip.position)
    .limit(1);
  const first = rows[0];
  if (!first) return null;
  return first.type.endsWith("Account") ? first.id : first.aboveId;
}
