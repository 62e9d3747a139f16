import { and, eq, isNull, sql } from "drizzle-orm";
import { proposeCuts } from "#core/bench/propose-cuts.ts";
import { type ContentKind, contentKinds } from "#core/arrivals/limits.ts";
import { textOfWords } from "#core/pages/page-text.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { db } from "../db/connect.ts";
import { content, contentPage } from "../documents/tables.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import { storeFingerprint } from "../matching/fingerprint-contents.ts";
import { config } from "../settings/config.ts";
import { loadLabelFormats, loadLimits } from "../settings/load-settings.ts";
import { lookAtPage, type PageLook } from "./look-at-page.ts";
import { keptWords, loadPages, type PageRow, pageRows } from "./page-rows.ts";
import { isLaidOut, layOut } from "./lay-out.ts";
import { pageSource } from "./page-picture.ts";
import { readPdf } from "./read-pdf.ts";
import { bodyOfPages } from "./read-outcome.ts";
import { systemCode } from "../ports/system-code.ts";

/** Pages in work in this process, over all documents: each has a turn after those that asked before it. */
let inWork = 0;
const queue: (() => void)[] = [];
async function withTurn<T>(act: () => Promise<T>): Promise<T> {
  if (inWork >= config().looksAtOnce) await new Promise<void>((go) => queue.push(go));
  else inWork++;
  try {
    return await act();
  } finally {
    const next = queue.shift();
    if (next) next();
    else inWork--;
  }
}

/** Pages looked at in one go; then other documents have their turn. Some ten seconds of OCR. */
const PORTION_PAGES = 12;
/** Of a long document its last pages are among the first: sums stand there. */
const LAST_PAGES = 2;

/** The pages of the next portion: the first ones, and the last ones of a document that is longer than a portion. */
function nextPortion(pages: readonly PageRow[], portion: number): readonly PageRow[] {
  if (pages.length <= portion) return pages;
  return [...pages.slice(0, portion - LAST_PAGES), ...pages.slice(-LAST_PAGES)];
}

/**
 * Looks at the pictures of a content's next pages that were not looked at yet, several side by side, and keeps what each brought at once, so that its
 * words are there as soon as it is done. Answers how many pages are left for another portion. Ends early when somebody stopped it. Safe to repeat: it goes
 * on where it was. Afterwards the running text is that of all pages looked at so far; the cuts are proposed when none is left.
 */
export async function analysePages(sha256: Sha256, portion = PORTION_PAGES): Promise<number> {
  const claimed = await db()
    .update(content)
    .set({ looked: "going" })
    .where(and(eq(content.sha256, sha256), sql`${content.looked} in ('no','going')`))
    .returning({ kind: content.kind, state: content.state });
  const about = claimed[0];
  if (!about) return 0;
  let left = 0;
  const kind = about.kind as ContentKind | null;
  if (about.state === "read" && isLaidOut(kind)) await enterLaidOut(sha256, kind);
  const drawnFrom = about.state === "read" && kind !== null && kind in contentKinds ? await pageSource(sha256, kind) : null;
  if (drawnFrom?.ok) {
    const { file, kind: drawnAs } = drawnFrom.value;
    const unlooked = (await loadPages(db(), sha256)).filter((p) => !p.isLooked);
    const pages = nextPortion(unlooked, portion);
    left = unlooked.length - pages.length;
    let stopped = false;
    await sideBySide(pages, config().looksAtOnce, (page) =>
      withTurn(async () => {
        stopped ||= await wasStopped(sha256);
        if (!stopped) await keep(sha256, page.number, await lookAtPage(file, drawnAs, page));
      }),
    );
    if (stopped) left = 0;
  }
  await summarise(sha256, left === 0);
  if (left > 0) return left;
  await storeFingerprint(db(), sha256);
  await db()
    .update(content)
    .set({ looked: "yes" })
    .where(and(eq(content.sha256, sha256), eq(content.looked, "going")));
  return 0;
}

/** Lays an office file out and enters its pages with their words. One that cannot be laid out stays as it is: text, or what can be said of it. */
async function enterLaidOut(sha256: Sha256, kind: ContentKind | null): Promise<void> {
  const made = await layOut(sha256);
  const read = made.ok
    ? await readPdf(made.value, { pagesMax: (await loadLimits()).pagesMax, fileName: "laid-out.pdf", kind: "pdf" })
    : null;
  const there = await loadPages(db(), sha256);
  if (there.length > 0) return;
  if (!read || read.pageTexts.length === 0) {
    // Nothing is known of it but its name.
    if (kind === "office")
      await db()
        .update(content)
        .set({ problem: { code: "not-readable", detail: null } })
        .where(eq(content.sha256, sha256));
    return;
  }
  await db().transaction(async (tx) => {
    await tx
      .insert(contentPage)
      .values(pageRows(sha256, read.pageTexts, true))
      .onConflictDoNothing();
    await tx
      .update(content)
      .set({ pages: read.pages, ...(kind === "office" ? { body: read.body } : {}) })
      .where(eq(content.sha256, sha256));
  });
}

/** Looks at what is left without its pictures: called when that was tried several times. What the text layers say stands. */
export async function giveUpAnalysis(sha256: Sha256): Promise<void> {
  await endPending(sha256);
  await db().update(content).set({ looked: "yes" }).where(eq(content.sha256, sha256));
}

/** Ends looking at a content's pages, on somebody's word; what is known by then stands. Answers whether there was anything to stop. */
export async function stopAnalysis(sha256: Sha256): Promise<boolean> {
  const done = await db()
    .update(content)
    .set({ looked: "stopped" })
    .where(and(eq(content.sha256, sha256), sql`${content.looked} in ('no','going')`))
    .returning({ sha256: content.sha256 });
  if (!done[0]) return false;
  await endPending(sha256);
  return true;
}

async function endPending(sha256: Sha256): Promise<void> {
  await db()
    .update(contentPage)
    .set({ wordsFrom: sql`case when jsonb_array_length(words) > 0 then 'layer' else 'none' end` })
    .where(and(eq(contentPage.sha256, sha256), isNull(contentPage.wordsFrom)));
}

async function wasStopped(sha256: Sha256): Promise<boolean> {
  const row = (await db().select({ looked: content.looked }).from(content).where(eq(content.sha256, sha256)))[0];
  return row?.looked === "stopped";
}

async function keep(sha256: Sha256, number: number, analysis: PageLook): Promise<void> {
  await db()
    .update(contentPage)
    .set({
      wordsFrom: analysis.wordsFrom,
      ...(analysis.wordsFrom === "picture" ? { words: keptWords(analysis.words) } : {}),
      ink: analysis.ink ?? -1,
      codes: analysis.codes,
      turn: analysis.turn,
      slant: analysis.slant,
      print: analysis.print,
    })
    .where(and(eq(contentPage.sha256, sha256), eq(contentPage.number, number)));
}

/** Running text and, when all pages were looked at, proposed cuts, from what the pages say now. */
async function summarise(sha256: Sha256, isWhole: boolean): Promise<void> {
  const pages = await loadPages(db(), sha256);
  if (pages.length === 0) return;
  // What was laid out is one document, and cannot be cut where it is not a PDF.
  const kind = (await db().select({ kind: content.kind }).from(content).where(eq(content.sha256, sha256)))[0]?.kind ?? null;
  const cuts = isLaidOut(kind) || !isWhole ? [] : proposeCuts(pages, await loadLabelFormats());
  const fromPictures = pages.some((p) => p.wordsFrom === "picture");
  const { body } = bodyOfPages(pages.map((p) => textOfWords(p.words)));
  await db()
    .update(content)
    .set({ cuts, ...(fromPictures ? { body } : {}) })
    .where(eq(content.sha256, sha256));
}

/** The stage `look`: looks at a portion and answers how many pages are left. Says only in the log when a program for it is missing; the document can be filed without. */
export async function analyseOrSkip(sha256: Sha256): Promise<number> {
  try {
    return await analysePages(sha256);
  } catch (error) {
    if (systemCode(error) !== "reader-missing") throw error;
    console.error("OCR is not installed; scanned documents stay without text");
    await giveUpAnalysis(sha256);
    return 0;
  }
}
