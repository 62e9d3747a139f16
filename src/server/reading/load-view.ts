import { and, asc, eq, sql } from "drizzle-orm";
import { hasPictures } from "#core/arrivals/limits.ts";
import type { ArrivalProblem } from "#core/arrivals/problems.ts";
import type { Word } from "#core/pages/page-text.ts";
import { typedPage } from "#core/pages/text-page.ts";
import { db } from "../db/connect.ts";
import { content, contentPage } from "../documents/tables.ts";
import { wordsOf } from "./page-rows.ts";
import { isLaidOut } from "./lay-out.ts";
import type { Outline } from "./read-outcome.ts";

/** What the viewer shows a content from. The caller has made sure that the person may see it. */
export interface ContentView {
  /** The first digits of its SHA-256, which addresses of its pictures and words name. */
  readonly of: string;
  readonly kind: string | null;
  readonly mediaType: string | null;
  readonly state: string;
  readonly problem: ArrivalProblem | null;
  readonly pictures: boolean;
  readonly pages: readonly {
    readonly number: number;
    readonly width: number;
    readonly height: number;
    /** Where its words are from; "coming" while its picture is being read. */ readonly words: "layer" | "picture" | "none" | "coming";
    /** Degrees clockwise that it has to be turned to stand upright. */ readonly turn: number;
  }[];
  /** How far the pictures of its pages were looked at; null when that is over. */
  readonly looking: { readonly done: number } | null;
  readonly outline: Outline | null;
  /** Running text, for kinds without pages; cut for showing. */
  readonly text: string | null;
}

/** The first digits of a content's hash: enough to tell the versions of a document apart in an address. */
export const contentName = (sha256: string): string => sha256.slice(0, 16);

/** Characters of plain text that the viewer shows. */
const SHOWN_MAX = 300_000;

/** Loads what the viewer needs at first; words come page by page. Null when the content is not known. */
export async function loadView(sha256: string): Promise<ContentView | null> {
  const row = (
    await db()
      .select({
        kind: content.kind,
        mediaType: content.mediaType,
        state: content.state,
        problem: content.problem,
        looked: content.looked,
        outline: content.outline,
        text: sql<string | null>`left(${content.body}, ${SHOWN_MAX})`,
      })
      .from(content)
      .where(eq(content.sha256, sha256))
  )[0];
  if (!row) return null;
  const pages = await db()
    .select({
      number: contentPage.number,
      width: contentPage.widthPoints,
      height: contentPage.heightPoints,
      words: contentPage.wordsFrom,
      turn: contentPage.turn,
      ink: contentPage.ink,
    })
    .from(contentPage)
    .where(eq(contentPage.sha256, sha256))
    .orderBy(asc(contentPage.number));
  const pictures = (hasPictures(row.kind) || isLaidOut(row.kind)) && pages.length > 0;
  return {
    of: contentName(sha256),
    kind: row.kind,
    mediaType: row.mediaType,
    state: row.state,
    problem: row.problem as ArrivalProblem | null,
    pictures,
    pages: pages.map((p) => ({
      number: p.number,
      width: p.width,
      height: p.height,
      words: (p.words ?? "coming") as ContentView["pages"][number]["words"],
      turn: p.turn,
    })),
    looking: row.looked === "no" || row.looked === "going" ? { done: pages.filter((p) => p.ink !== null).length } : null,
    outline: row.outline as Outline | null,
    text: pictures ? null : row.text,
  };
}

/** Words of one page, of a table those of one sheet; empty when it has none or is not there. */
export async function loadWords(sha256: string, number: number): Promise<readonly Word[]> {
  const row = (
    await db()
      .select({ words: contentPage.words })
      .from(contentPage)
      .where(and(eq(contentPage.sha256, sha256), eq(contentPage.number, number)))
  )[0];
  if (row) return wordsOf(row.words);
  const whole = (await db().select({ outline: content.outline, body: content.body }).from(content).where(eq(content.sha256, sha256)))[0];
  return whole ? (typedPage(whole.outline as Outline | null, whole.body, number)?.words ?? []) : [];
}

/** Running text of a content; null when it is not known or not read yet. */
export async function loadBody(sha256: string): Promise<string | null> {
  const row = (await db().select({ body: content.body }).from(content).where(eq(content.sha256, sha256)))[0];
  return row?.body ?? null;
}

/** Kind and media type of a content, for serving it. */
export async function loadKind(
  sha256: string,
): Promise<{ readonly kind: string | null; readonly mediaType: string | null; readonly sizeBytes: number } | null> {
  return (
    (
      await db()
        .select({ kind: content.kind, mediaType: content.mediaType, sizeBytes: content.sizeBytes })
        .from(content)
        .where(eq(content.sha256, sha256))
    )[0] ?? null
  );
}
