import { and, eq, inArray, or, sql } from "drizzle-orm";
import { z } from "zod";
import { textOfMail } from "#core/pages/text-page.ts";
import { turnBox } from "#core/pages/turn-box.ts";
import type { EInvoice } from "#core/reading/e-invoice.ts";
import type { PageCode } from "#core/codes/page-code.ts";
import { linesOfPage, linesOfTable, linesOfText, type ReadPage } from "#core/reading/page-lines.ts";
import type { Tx } from "../db/connect.ts";
import { arrival } from "../arrivals/tables.ts";
import { content, contentPage } from "../documents/tables.ts";
import { asPageRow, type PageRow } from "../reading/page-rows.ts";
import type { Outline } from "../reading/read-outcome.ts";

type ArrivalRow = typeof arrival.$inferSelect;

/** What finding asks of an arrival itself. */
export type PaperArrival = Pick<
  ArrivalRow,
  "id" | "state" | "company" | "queue" | "fileName" | "sender" | "receivedAt" | "recordId" | "documentType"
>;

/** An arrival's document without its pages. */
export interface PaperHead {
  readonly arrival: PaperArrival;
  readonly text: string;
  readonly subject: string | null;
  readonly isMail: boolean;
  /** Ids of the mails that it answers, or that the mail answers which it came with. */
  readonly answers: readonly string[];
  /** It probably falls apart into several documents: then only the first is read. */
  readonly isSeveral: boolean;
  readonly codes: readonly (PageCode & { readonly page: number })[];
}

/** An arrival's document as reading and matching take it. */
export interface LoadedPaper extends PaperHead {
  readonly kind: string | null;
  readonly pages: readonly ReadPage[];
  /** What it says itself, when it is or carries an e-invoice. */
  readonly invoice: EInvoice | null;
}

const cutsSchema = z.array(z.looseObject({ afterPage: z.number().int() }));
/** Pages read from the front and from the back: sums stand on the last one. */
export const FRONT = 4;
export const BACK = 2;
/** Characters of its text that are looked at. */
export const TEXT_MAX = 100_000;

/** Loads what reading needs of an arrival: its first and last pages, or its text; and the subject of the mail it came with. Null when it is not there. */
export async function loadPaper(tx: Tx, arrivalId: string): Promise<LoadedPaper | null> {
  const found = (
    await tx
      .select({
        row: arrival,
        kind: content.kind,
        state: content.state,
        body: sql<string | null>`left(${content.body}, ${TEXT_MAX})`,
        cuts: content.cuts,
        outline: content.outline,
        pages: content.pages,
      })
      .from(arrival)
      .innerJoin(content, eq(content.sha256, arrival.sha256))
      .where(eq(arrival.id, arrivalId))
  )[0];
  if (!found) return null;
  const { row } = found;
  const rows = await tx
    .select()
    .from(contentPage)
    .where(
      and(
        eq(contentPage.sha256, row.sha256),
        or(
          sql`${contentPage.number} <= ${FRONT}`,
          sql`${contentPage.number} > ${(found.pages ?? 0) - BACK}`,
          sql`${contentPage.codes} <> '[]'`,
        ),
      ),
    )
    .orderBy(contentPage.number);
  const pages = rows.map(asPageRow);
  const cuts = cutsSchema.parse(found.cuts);
  const firstEnds = cuts[0]?.afterPage ?? Number.MAX_SAFE_INTEGER;
  const drawn = pages
    .filter((p) => p.number <= firstEnds)
    .filter((p) => p.number <= FRONT || p.number > (found.pages ?? 0) - BACK)
    .map(readPageOf);
  const outline = found.outline as Outline | null;
  const body = found.body ?? "";
  const isMail = outline?.kind === "mail";
  const parent = isMail ? null : await mailOfParent(tx, row);
  const hasWords = drawn.some((p) => p.lines.length > 0);
  const text = isMail ? textOfMail(outline) : body;
  return {
    arrival: row,
    kind: found.kind,
    pages: hasWords ? drawn : found.state === "read" ? typedPages(outline, text.slice(0, TEXT_MAX), rows.length > 0) : [],
    text,
    subject: isMail ? outline.subject : (parent?.subject ?? null),
    isMail,
    answers: (isMail ? outline : parent)?.answers ?? [],
    isSeveral: cuts.length > 0,
    invoice: outline?.kind === "invoice" ? outline.invoice : null,
    codes: pages.flatMap((p) => p.codes.map((c) => ({ ...c, page: p.number }))),
  };
}

/** A page's lines as reading takes them: they run across the page as it stands upright. */
export function readPageOf(p: PageRow): ReadPage {
  const sideways = p.turn === 90 || p.turn === 270;
  const words = p.turn === 0 ? p.words : p.words.map((w) => ({ ...w, box: turnBox(w.box, p.turn, p.widthPoints, p.heightPoints) }));
  return linesOfPage({
    number: p.number,
    widthPoints: sideways ? p.heightPoints : p.widthPoints,
    heightPoints: sideways ? p.widthPoints : p.heightPoints,
    words,
    fromPicture: p.wordsFrom === "picture",
    slant: p.wordsFrom === "picture" ? (p.slant ?? 0) : 0,
    ...(p.turn === 0 ? {} : { turned: { by: p.turn, width: p.widthPoints, height: p.heightPoints } }),
  });
}

/** What has no pages, as it is shown: a table sheet by sheet, else its text. An e-invoice is shown by its fields, and what has pages by these, not by their text. */
function typedPages(outline: Outline | null, text: string, hasPages: boolean): readonly ReadPage[] {
  if (outline?.kind === "table") return outline.sheets.map((sheet, i) => linesOfTable(sheet, i + 1)).filter((p) => p.lines.length > 0);
  return text.trim() === "" ? [] : [linesOfText(text, { isShown: !hasPages && outline?.kind !== "invoice" })];
}

/** The mail that an attachment came with; null for what came otherwise. */
async function mailOfParent(tx: Tx, row: ArrivalRow): Promise<Extract<Outline, { kind: "mail" }> | null> {
  if (row.parentId === null) return null;
  const parent = await tx
    .select({ outline: content.outline })
    .from(arrival)
    .innerJoin(content, eq(content.sha256, arrival.sha256))
    .where(inArray(arrival.id, [row.parentId]));
  const outline = parent[0]?.outline as Outline | null | undefined;
  return outline?.kind === "mail" ? outline : null;
}
