import { and, eq, sql } from "drizzle-orm";
import { type ContentKind, contentKinds, isKindAllowed, isMislabelled } from "#core/arrivals/limits.ts";
import { type ArrivalProblem, problemWords } from "#core/arrivals/problems.ts";
import { endingOf } from "#core/filing-plan/legal-name.ts";
import { BLANK_INK } from "#core/pages/measure-page.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { db, type Tx } from "../db/connect.ts";
import { content, document, documentVersion } from "../documents/tables.ts";
import { wantFillAfterReading } from "../documents/fill-after-reading.ts";
import { enqueueAutomaticFiling } from "../automatic-filing/enqueue-automatic-filing.ts";
import { suggestQuietly } from "../matching/suggest-quietly.ts";
import { suggestAgain } from "../matching/suggest-again.ts";
import { isLaidOut } from "../reading/lay-out.ts";
import { enqueueAnalysis } from "../reading/enqueue-analysis.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import { loadQueueLimits } from "../settings/load-settings.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { arrival } from "./tables.ts";

/**
 * The end of reading: reading → ready or failed, by what is known of its content; set aside when only its parts are kept. One that somebody filed
 * or set aside meanwhile keeps its state.
 */
export async function finishReading(tx: Tx, arrivalId: string, keepsPartsOnly = false): Promise<void> {
  const found = (
    await tx
      .select({ row: arrival, kind: content.kind, state: content.state, problem: content.problem, pages: content.pages })
      .from(arrival)
      .innerJoin(content, eq(content.sha256, arrival.sha256))
      .where(and(eq(arrival.id, arrivalId), eq(arrival.state, "reading")))
  )[0];
  if (!found) return;
  const known = found.problem as ArrivalProblem | null;
  const beyond = await beyondLimits(tx, found.row.queue, found.kind, found.pages, known);
  const failed = found.state === "failed" || beyond !== null;
  const done = await tx
    .update(arrival)
    .set({
      state: failed ? "failed" : keepsPartsOnly ? "setAside" : "ready",
      problem: beyond ?? problemOf(found.row.fileName, found.kind, known),
      readyAt: now(),
      // By the queue's own rule; in the register it stays, and can be restored like anything that was set aside.
      ...(keepsPartsOnly ? { endedAt: now(), endedBy: PROGRAM, endReason: "its attachments are kept" } : {}),
    })
    .where(and(eq(arrival.id, arrivalId), eq(arrival.state, "reading")))
    .returning({ id: arrival.id, problem: arrival.problem });
  if (!done[0]) return;
  if (await hasCodes(tx, found.row.sha256)) await addJob(tx, "sort", { arrivalId }, { key: `sort:${arrivalId}` });
  if (!failed && !keepsPartsOnly) await enqueueAutomaticFiling(tx, arrivalId, found.row.queue);
  const about = { who: PROGRAM, company: found.row.company, arrivalId };
  const problem = done[0].problem as ArrivalProblem | null;
  await writeLines(tx, [
    ...(keepsPartsOnly ? [{ ...about, verb: "setAside" as const, details: { reason: "its attachments are kept" } }] : []),
    {
      ...about,
      verb: failed ? "readingFailed" : "read",
      details: { problem: problem?.code ?? "", pages: found.pages === 1 ? "1 page" : `${found.pages ?? "no"} pages` },
    },
  ]);
}

/** What of a queue's own limits a document breaks; those that hold everywhere were looked at when it was read. */
async function beyondLimits(
  tx: Tx,
  queueKey: string,
  kind: string | null,
  pages: number | null,
  known: ArrivalProblem | null,
): Promise<ArrivalProblem | null> {
  const limits = (await loadQueueLimits(tx)).get(queueKey);
  if (!limits || kind === null || !(kind in contentKinds) || (known !== null && problemWords[known.code].stops)) return null;
  if (!isKindAllowed(kind as ContentKind, limits)) return { code: "type-not-allowed", detail: contentKinds[kind as ContentKind].label };
  if (pages !== null && pages > limits.pagesMax) return { code: "too-many-pages", detail: `${pages} pages, at most ${limits.pagesMax}` };
  return null;
}

/** What there is to say of an arrival: what is wrong with its content, else that its name promises another kind. */
function problemOf(fileName: string, kind: string | null, known: ArrivalProblem | null): ArrivalProblem | null {
  if (known !== null || kind === null || !(kind in contentKinds)) return known;
  const ending = endingOf(fileName);
  const is = kind as ContentKind;
  return isMislabelled(ending, is) ? { code: "mislabelled", detail: `named ${ending}, is ${contentKinds[is].label}` } : null;
}

/** Whether pages of a content bear barcodes or are blank: then there is something to sort. */
async function hasCodes(tx: Tx, sha256: string): Promise<boolean> {
  const telling = await tx.execute(
    sql`select from content_page where sha256 = ${sha256} and (codes <> '[]' or ink < ${BLANK_INK}) limit 1`,
  );
  return telling.rows.length > 0;
}

/**
 * Ends the reading of an arrival whose pages all have words of their own, though their pictures were not looked at yet: behind a long scan it must not
 * wait. Barcodes and proposed cuts come when its turn comes.
 */
export async function finishWithoutOcr(arrivalId: string): Promise<void> {
  await db().transaction((tx) => finishReading(tx, arrivalId));
}

/**
 * Goes on with a content of which a portion was looked at: what its pages say so far can be found, the records of arrivals that wait for it are proposed from
 * its first and last pages, and the next portion has its turn behind shorter documents.
 */
export async function analyseFurther(sha256: Sha256): Promise<void> {
  const unread = await db().execute<{ id: string }>(sql`select a.id from arrival a where a.sha256 = ${sha256} and a.state = 'reading'
    and not exists (select from arrival_reading f where f.arrival_id = a.id)`);
  for (const { id } of unread.rows) await suggestQuietly(id);
  await db().transaction(async (tx) => {
    await indexFiled(tx, sha256);
    await enqueueAnalysis(tx, sha256);
  });
}

/** Ends the reading of all arrivals that waited for a content to be looked at, and has the documents that hold it found by its words. */
export async function finishAnalysed(sha256: Sha256): Promise<void> {
  const all = await db()
    .select({ id: arrival.id })
    .from(arrival)
    .where(and(eq(arrival.sha256, sha256), eq(arrival.state, "reading")));
  for (const { id } of all) await suggestQuietly(id);
  await db().transaction(async (tx) => {
    // Those that were hurried on before: what their pictures say is new.
    const ready = await tx
      .select({ id: arrival.id })
      .from(arrival)
      .where(and(eq(arrival.sha256, sha256), eq(arrival.state, "ready")));
    const kind = (await tx.select({ kind: content.kind }).from(content).where(eq(content.sha256, sha256)))[0]?.kind ?? null;
    const telling = ready.length > 0 && (await hasCodes(tx, sha256));
    for (const { id } of ready) {
      if (telling) await addJob(tx, "sort", { arrivalId: id }, { key: `sort:${id}` });
      // What was laid out has its words at their places only now.
      if (telling || isLaidOut(kind)) await suggestAgain(tx, id);
    }
    const waiting = await tx
      .select({ id: arrival.id })
      .from(arrival)
      .where(and(eq(arrival.sha256, sha256), eq(arrival.state, "reading")))
      .orderBy(arrival.number)
      .for("update");
    for (const { id } of waiting) await finishReading(tx, id);
    await indexFiled(tx, sha256);
  });
}

/** Has a content found by its words, in the documents that were filed with it before it was read and in the arrivals that wait with it. In the caller's transaction. */
export async function indexFiled(tx: Tx, sha256: string): Promise<void> {
  const filed = await tx
    .select({ id: document.id })
    .from(documentVersion)
    .innerJoin(document, and(eq(document.id, documentVersion.documentId), eq(document.currentVersion, documentVersion.number)))
    .where(eq(documentVersion.sha256, sha256));
  await wantFillAfterReading(tx, sha256);
  await addJob(tx, "indexWaiting", { sha256 }, { key: `indexWaiting:${sha256}`, priority: 1 });
  for (const { id } of filed) await addJob(tx, "index", { documentId: id }, { key: `index:${id}`, priority: 1 });
}
