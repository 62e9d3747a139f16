import { createHash, randomUUID } from "node:crypto";
import { Readable } from "node:stream";
import { and, eq, inArray, sql } from "drizzle-orm";
import { contentKinds, hasPictures } from "#core/arrivals/limits.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { db } from "../db/connect.ts";
import { content } from "../documents/tables.ts";
import { suggestQuietly } from "../matching/suggest-quietly.ts";
import { addJob } from "../jobs/add-job.ts";
import { AppError } from "../ports/app-error.ts";
import { landingStore } from "../ports/adapters.ts";
import { now } from "../ports/clock.ts";
import { pagePicture, picturesAhead } from "../reading/page-picture.ts";
import { readContent } from "../reading/read-content.ts";
import type { ReadMail } from "../reading/read-mail.ts";
import { enqueueAnalysis } from "../reading/enqueue-analysis.ts";
import { loadLimits } from "../settings/load-settings.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { finishReading, indexFiled } from "./finish-reading.ts";
import { tidyFileName } from "./receive.ts";
import { arrival, queue } from "./tables.ts";

/** So long a document with words of its own waits for its pictures to be looked at. */
const HURRY_SECONDS = 4;
/** Width of the picture that lists show, pixels. */
const LIST_WIDTH = 160;

/**
 * The worker's reading of an arrival: waiting → reading, and on to ready or failed, unless the pictures of its pages have to be looked at first: then
 * the stage `look` ends it. Safe to run twice and at the same time; an arrival
 * that somebody filed or set aside meanwhile keeps its state. Where it is filed at once nothing need be proposed (`suggests` false) and no picture made for
 * the list of what waits (`draws` false): it is made when somebody looks. Throws to be tried again.
 */
export async function readArrival(arrivalId: string, wish: { readonly suggests?: boolean; readonly draws?: boolean } = {}): Promise<void> {
  const { suggests = true, draws = true } = wish;
  const claimed = await db()
    .update(arrival)
    .set({ state: "reading" })
    .where(and(eq(arrival.id, arrivalId), inArray(arrival.state, ["waiting", "reading"])))
    .returning();
  const found = claimed[0] ?? (await db().select().from(arrival).where(eq(arrival.id, arrivalId)))[0];
  if (!found) return;
  const sha256 = parseSha256(found.sha256);
  const limits = await loadLimits();
  const known = (await db().select({ state: content.state, kind: content.kind }).from(content).where(eq(content.sha256, sha256)))[0];
  let mail: ReadMail | null = null;
  let ahead: Promise<void> | null = null;
  // A mail is taken apart for each arrival, since its parts become this arrival's children.
  if (known?.state !== "read" || known.kind === null || known.kind === "mail" || known.kind === "msg" || !(known.kind in contentKinds)) {
    const read = await readContent(sha256, found.fileName, limits);
    mail = read.mail;
    // The first page's picture is made now, so that the list shows it without a wait; what is laid out first has it later.
    if (draws && read.outcome.pages !== null && hasPictures(read.kind)) {
      await pagePicture(sha256, read.kind, 1, LIST_WIDTH);
      ahead = picturesAhead(sha256, read.kind, read.outcome.pages);
    }
  }
  const children = mail ? await landParts(mail) : [];
  // What its own words say is found before it is ready; where pictures have to be read first, when that is done.
  const isLooked = await db().execute<{ words: boolean; looked: boolean }>(sql`select looked in ('yes','stopped') as looked,
    not exists (select from content_page p where p.sha256 = content.sha256 and p.words_from is null)
      and not (kind = 'office' and looked in ('no', 'going')) as words from content where sha256 = ${sha256}`);
  const { looked: wasLooked = false, words: hasWords = false } = isLooked.rows[0] ?? {};
  if (suggests && (wasLooked || hasWords)) await suggestQuietly(found.id);
  await db().transaction(async (tx) => {
    for (const child of children) {
      await tx.insert(content).values({ sha256: child.sha256, sizeBytes: child.sizeBytes }).onConflictDoNothing();
      const id = randomUUID();
      const made = await tx
        .insert(arrival)
        .values({
          id,
          parentId: found.id,
          part: child.part,
          company: found.company,
          queue: found.queue,
          source: found.source,
          sender: mail?.sender ?? found.sender,
          fileName: child.fileName,
          sha256: child.sha256,
          sizeBytes: child.sizeBytes,
          recordId: found.recordId,
          receivedAt: found.receivedAt,
          receivedBy: found.receivedBy,
          aside: child.aside,
          ...(child.aside ? { state: "setAside", endedAt: now(), endedBy: PROGRAM, endReason: "part of the mail's layout" } : {}),
        })
        .onConflictDoNothing()
        .returning({ id: arrival.id });
      if (made[0] && !child.aside) {
        await writeLines(tx, [
          {
            verb: "takenIn",
            who: PROGRAM,
            company: found.company,
            arrivalId: id,
            details: { fileName: child.fileName, source: found.source },
          },
        ]);
        await addJob(tx, "read", { arrivalId: id }, { key: `read:${id}` });
      }
    }
    const mayKeepParts = found.source === "mail" && found.parentId === null && children.some((c) => !c.aside);
    const keeps = mayKeepParts
      ? (await tx.select({ keeps: queue.mailKeeps }).from(queue).where(eq(queue.key, found.queue)))[0]?.keeps
      : undefined;
    const keepsParts = keeps === "partsOnly";
    if (keeps === "ask")
      await tx
        .update(arrival)
        .set({ mail: sql`coalesce(${arrival.mail}, '{}'::jsonb) || '{"asks": true}'::jsonb` })
        .where(and(eq(arrival.id, found.id), sql`${arrival.mail}->'asks' is null`));
    if (mail?.sender)
      await tx
        .update(arrival)
        .set({ sender: mail.sender.slice(0, 300) })
        .where(and(eq(arrival.id, found.id), eq(arrival.state, "reading")));
    const looked = (await tx.select({ looked: content.looked }).from(content).where(eq(content.sha256, sha256)).for("share"))[0]?.looked;
    if (looked === "yes" || looked === "stopped") await finishReading(tx, found.id, keepsParts);
    else {
      await enqueueAnalysis(tx, sha256);
      if (hasWords)
        await addJob(tx, "finishWithoutOcr", { arrivalId: found.id }, { key: `hurry:${found.id}`, afterSeconds: HURRY_SECONDS });
    }
    await indexFiled(tx, sha256);
  });
  await ahead;
}

/** Called when the worker gives up: the arrival says so and can be tried again or filed by hand. */
export async function giveUpReading(arrivalId: string): Promise<void> {
  await db().transaction(async (tx) => {
    const done = await tx
      .update(arrival)
      .set({ state: "failed", problem: { code: "not-readable", detail: "reading was tried several times" } })
      .where(and(eq(arrival.id, arrivalId), inArray(arrival.state, ["waiting", "reading"])))
      .returning({ id: arrival.id, company: arrival.company });
    if (done[0])
      await writeLines(tx, [
        { verb: "readingFailed", who: PROGRAM, company: done[0].company, arrivalId, details: { problem: "not-readable" } },
      ]);
  });
}

async function landParts(mail: ReadMail) {
  const landed = [];
  for (const part of mail.parts) {
    const kept = await landingStore().keep(Readable.from([Buffer.from(part.bytes)]), Number.MAX_SAFE_INTEGER);
    if (!kept.ok) throw new AppError("landing-full", "later", "a mail's part could not be kept");
    if (kept.value.sha256 !== createHash("sha256").update(part.bytes).digest("hex"))
      throw new AppError("landing-wrong", "later", "kept bytes differ");
    landed.push({ ...kept.value, part: part.part, aside: part.aside, fileName: tidyFileName(part.fileName) });
  }
  return landed;
}
