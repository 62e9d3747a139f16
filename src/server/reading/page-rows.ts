import { and, asc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { type PageCode, pageCodeSchema } from "#core/codes/page-code.ts";
import type { PageText, Word } from "#core/pages/page-text.ts";
import { hasUsableText } from "#core/pages/usable-text.ts";
import { addTurns, type Quarter } from "#core/pages/turn-box.ts";
import type { Tx } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { contentPage } from "../documents/tables.ts";

const codesSchema = z.array(pageCodeSchema);

/** A page of a content, as it was read and looked at. */
export interface PageRow {
  readonly number: number;
  readonly widthPoints: number;
  readonly heightPoints: number;
  readonly words: readonly Word[];
  readonly wordsFrom: "layer" | "picture" | "none" | null;
  readonly ink: number | null;
  /** Whether its picture was looked at. */
  readonly isLooked: boolean;
  readonly codes: readonly PageCode[];
  readonly turn: Quarter;
  readonly slant: number | null;
  readonly print: bigint | null;
}

/** Words as they are kept with a page. */
export const keptWords = (words: readonly Word[]): readonly (readonly [string, number, number, number, number])[] =>
  words.map((w) => [w.text, ...w.box]);

/** Pages as they are entered when their words were read; those without usable words wait for their pictures to be looked at, where they have any. */
export const pageRows = (sha256: string, pages: readonly PageText[], hasPictures: boolean): (typeof contentPage.$inferInsert)[] =>
  pages.map((p) => ({
    sha256,
    number: p.number,
    widthPoints: p.widthPoints,
    heightPoints: p.heightPoints,
    words: keptWords(p.words),
    // Null as long as its picture has to be looked at.
    wordsFrom: hasPictures ? (hasUsableText(p.words) ? "layer" : null) : p.words.length > 0 ? "layer" : "none",
  }));

/** Kept words as words. Checked by hand: a bundle has hundreds of thousands, and a schema takes ten times as long. Throws for what is none. */
export function wordsOf(kept: unknown): readonly Word[] {
  if (!Array.isArray(kept)) throw new TypeError("kept words are no list");
  return kept.map((entry: unknown): Word => {
    const [text, x, y, width, height]: readonly unknown[] = Array.isArray(entry) ? entry : [];
    if (
      typeof text !== "string" ||
      typeof x !== "number" ||
      typeof y !== "number" ||
      typeof width !== "number" ||
      typeof height !== "number"
    )
      throw new TypeError("a kept word is none");
    return { text, box: [x, y, width, height] };
  });
}

/** All pages of a content, or those with these numbers, in order. */
export async function loadPages(tx: Tx, sha256: string, numbers?: readonly number[]): Promise<readonly PageRow[]> {
  if (numbers?.length === 0) return [];
  const rows = await tx
    .select()
    .from(contentPage)
    .where(and(eq(contentPage.sha256, sha256), numbers && sql`${contentPage.number} = any(${idArray(numbers)}::int[])`))
    .orderBy(asc(contentPage.number));
  return rows.map(asPageRow);
}

/** A kept page as it is used. Throws for what was not kept by us. */
export function asPageRow(r: typeof contentPage.$inferSelect): PageRow {
  return {
    number: r.number,
    widthPoints: r.widthPoints,
    heightPoints: r.heightPoints,
    words: wordsOf(r.words),
    wordsFrom: r.wordsFrom as PageRow["wordsFrom"],
    // Below nothing: it could not be drawn.
    ink: r.ink === null || r.ink < 0 ? null : r.ink,
    isLooked: r.ink !== null,
    codes: codesSchema.parse(r.codes),
    turn: addTurns(r.turn, 0),
    slant: r.slant,
    print: r.print,
  };
}

/** A page without its words: what the bench shows of a thousand of them at once. */
export interface PageBrief {
  readonly number: number;
  readonly widthPoints: number;
  readonly heightPoints: number;
  readonly hasWords: boolean;
  /** Whether its words are its own text layer, not read off its picture. */
  readonly hasLayer: boolean;
  readonly ink: number | null;
  /** Whether its picture was looked at. */
  readonly isLooked: boolean;
  readonly codes: readonly PageCode[];
  readonly turn: Quarter;
}

/** All pages of a content, in order, without their words. */
export async function loadPageBriefs(tx: Tx, sha256: string): Promise<readonly PageBrief[]> {
  const rows = await tx
    .select({
      number: contentPage.number,
      widthPoints: contentPage.widthPoints,
      heightPoints: contentPage.heightPoints,
      wordsFrom: contentPage.wordsFrom,
      ink: contentPage.ink,
      codes: contentPage.codes,
      turn: contentPage.turn,
    })
    .from(contentPage)
    .where(eq(contentPage.sha256, sha256))
    .orderBy(asc(contentPage.number));
  return rows.map((r) => ({
    number: r.number,
    widthPoints: r.widthPoints,
    heightPoints: r.heightPoints,
    hasWords: r.wordsFrom !== "none",
    hasLayer: r.wordsFrom === "layer",
    ink: r.ink === null || r.ink < 0 ? null : r.ink,
    isLooked: r.ink !== null,
    codes: codesSchema.parse(r.codes),
    turn: addTurns(r.turn, 0),
  }));
}
