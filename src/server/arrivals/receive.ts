import { createHash, randomUUID } from "node:crypto";
import type { Readable } from "node:stream";
import { eq, sql } from "drizzle-orm";
import { allowsRecord, companiesWith } from "#core/access/grants.ts";
import type { MailChecks } from "#core/arrivals/mail-in.ts";
import type { ArrivalState } from "#core/arrivals/journey.ts";
import { type ArrivalId, parseArrivalId, type Sha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db, type Tx } from "../db/connect.ts";
import { content } from "../documents/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { company as companyTable } from "../people/tables.ts";
import { landingStore } from "../ports/adapters.ts";
import { now } from "../ports/clock.ts";
import type { Landed } from "../ports/landing-store.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { findRecord } from "../records/find-record.ts";
import { loadLimits, loadQueueLimits } from "../settings/load-settings.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { takeScanWish } from "../ways-in/scan-wish.ts";
import { arrival, queue } from "./tables.ts";

/** What is said about a file on its way in. */
export interface IntakeNote {
  readonly fileName: string;
  readonly queue: string;
  readonly company?: string | undefined;
  readonly source: string;
  readonly sender?: string | undefined;
  readonly note?: string | undefined;
  /** `type:key` of the record it belongs to. */
  readonly record?: string | undefined;
  readonly documentType?: string | undefined;
  /** The same key again is the same arrival. */
  readonly idempotencyKey?: string | undefined;
}

/** What is kept of a message beside its content: whom it was sent to, what the relay found out, and the code that ties it. */
export interface MailFacts extends MailChecks {
  readonly to: string;
  readonly code: string | null;
  /** Whether a person is asked what is kept of it. */
  readonly asks?: boolean;
}

export interface TakenIn {
  readonly id: ArrivalId;
  readonly sha256: Sha256;
  readonly bytes: number;
  readonly state: ArrivalState;
}

/** Longest file name that is kept, in characters; the beginning and the ending stay. */
const FILE_NAME_MAX = 240;

/** Keeps a file's bytes. First half of taking in: nothing is in the register yet. */
export async function landFile(stream: Readable): Promise<Result<Landed>> {
  return landingStore().keep(stream, (await loadLimits()).bytesMax);
}

/**
 * Enters a kept file into the register and queues its reading, in one transaction: when this answers ok the arrival is safe
 * (promise 1). Refuses unknown-queue, not-allowed, unknown-type, unknown-record, key-reused.
 */
export async function takeIn(actor: Actor, landed: Landed, note: IntakeNote): Promise<Result<TakenIn>> {
  const queues = await db().select({ key: queue.key }).from(queue).where(eq(queue.key, note.queue));
  if (!queues[0]) return refuse("unknown-queue");
  // Kept bytes that are not entered belong to nobody, and are cleared away.
  const own = (await loadQueueLimits()).get(note.queue);
  if (own && landed.sizeBytes > own.bytesMax) return refuse("too-large", sizeInWords(own.bytesMax));
  const adds = companiesWith(actor.grants, "add");
  if (adds.length === 0) return refuse("not-allowed");
  if (note.company !== undefined) {
    const known = await db().select({ code: companyTable.code }).from(companyTable).where(eq(companyTable.code, note.company));
    if (!known[0] || !adds.includes(note.company))
      return refuse("bad-input", undefined, [{ path: "company", message: "is not one of your companies" }]);
  }
  if (note.documentType !== undefined && !(await loadDocumentType(note.documentType))) return refuse("unknown-type", note.documentType);
  let tied: { id: number; company: string } | null = null;
  if (note.record !== undefined) {
    tied = await findTied(db(), actor, note.record, note.company);
    if (!tied) return refuse("unknown-record", note.record);
  }
  const company = note.company ?? tied?.company ?? (adds.length === 1 ? adds[0] : undefined) ?? null;
  const id = note.idempotencyKey === undefined ? newId() : idFrom(actor.id, note.idempotencyKey);
  return enterArrival({
    id,
    landed,
    company,
    queue: note.queue,
    source: note.source,
    sender: note.sender ?? null,
    note: note.note ?? null,
    fileName: tidyFileName(note.fileName),
    recordId: tied?.id ?? null,
    documentType: note.documentType ?? null,
    receivedBy: actor.id,
    mail: null,
  });
}

/** An arrival as a way in enters it, everything about it found out. */
export interface NewArrival {
  readonly id: ArrivalId;
  readonly landed: Landed;
  readonly company: string | null;
  readonly queue: string;
  readonly source: string;
  readonly sender: string | null;
  readonly note: string | null;
  readonly fileName: string;
  readonly recordId: number | null;
  readonly documentType: string | null;
  /** Person id, or PROGRAM for a way in of the program's own. */
  readonly receivedBy: string;
  readonly mail: MailFacts | null;
}

/** Enters kept bytes into the register and queues their reading, in one transaction (promise 1). The same id with the same bytes is the same arrival; with others key-reused. */
export async function enterArrival(a: NewArrival): Promise<Result<TakenIn>> {
  const { id, landed } = a;
  return db().transaction(async (tx) => {
    await tx
      .insert(content)
      .values({ sha256: landed.sha256, sizeBytes: landed.sizeBytes })
      .onConflictDoUpdate({ target: content.sha256, set: { isLanded: true }, setWhere: sql`not ${content.isLanded}` });
    const made = await tx
      .insert(arrival)
      .values({
        id,
        company: a.company,
        queue: a.queue,
        source: a.source,
        sender: a.sender,
        note: a.note,
        fileName: a.fileName,
        sha256: landed.sha256,
        sizeBytes: landed.sizeBytes,
        recordId: a.recordId,
        documentType: a.documentType,
        receivedAt: now(),
        receivedBy: a.receivedBy,
        mail: a.mail,
      })
      .onConflictDoNothing()
      .returning({ id: arrival.id });
    if (!made[0]) {
      const known = (await tx.select().from(arrival).where(eq(arrival.id, id)))[0];
      if (!known || known.sha256 !== landed.sha256) return refuse("key-reused");
      return ok({ id, sha256: landed.sha256, bytes: known.sizeBytes, state: known.state as ArrivalState });
    }
    // Somebody waited for it at their record.
    const waited = a.recordId === null ? await takeScanWish(tx, a) : null;
    if (waited)
      await tx
        .update(arrival)
        .set({ recordId: waited.recordId, company: a.company ?? waited.company })
        .where(eq(arrival.id, id));
    await writeLines(tx, [
      { verb: "takenIn", who: a.receivedBy, company: a.company, arrivalId: id, details: { fileName: a.fileName, source: a.source } },
    ]);
    await addJob(tx, "read", { arrivalId: id }, { key: `read:${id}` });
    return ok({ id, sha256: landed.sha256, bytes: landed.sizeBytes, state: "waiting" as const });
  });
}

/** The record a way in names, if the person may see it; `type:key`, in the company said or in the only one that has it. */
async function findTied(
  tx: Tx,
  actor: Actor,
  reference: string,
  company: string | undefined,
): Promise<{ id: number; company: string } | null> {
  const cut = reference.indexOf(":");
  if (cut <= 0) return null;
  const [type, key] = [reference.slice(0, cut), reference.slice(cut + 1)];
  const companies = company === undefined ? companiesWith(actor.grants, "see") : [company];
  for (const code of companies.filter((c) => allowsRecord(actor.grants, "see", c, type))) {
    const id = await findRecord(tx, code, type, key);
    if (id !== null) return { id, company: code };
  }
  return null;
}

const sizeInWords = (bytes: number): string => `at most ${Math.max(1, Math.floor(bytes / 1024 / 1024))} MB in this queue`;

/** A file's own name without folders and invisible characters. Never empty. */
export function tidyFileName(name: string): string {
  const last = name.split(/[/\\]/).at(-1) ?? "";
  const clean = Array.from(last.normalize("NFC"))
    .filter((c) => !/[\p{Cc}\p{Cf}]/u.test(c))
    .join("")
    .trim();
  if (clean === "") return "unnamed";
  return clean.length <= FILE_NAME_MAX ? clean : clean.slice(0, FILE_NAME_MAX - 12) + clean.slice(-12);
}

function newId(): ArrivalId {
  return branded(randomUUID());
}

/** An id that follows from person and key, so that the same request again is the same arrival, whatever died in between. */
export function idFrom(personId: string, key: string): ArrivalId {
  const hex = createHash("sha256").update(`arrival\n${personId}\n${key}`).digest("hex");
  return branded(`${hex.slice(0, 8)}-${hex.slice(8, 12)}-8${hex.slice(13, 16)}-a${hex.slice(17, 20)}-${hex.slice(20, 32)}`);
}

function branded(text: string): ArrivalId {
  const id = parseArrivalId(text);
  if (id === null) throw new Error("not an arrival id");
  return id;
}
