import { inArray, sql } from "drizzle-orm";
import { contentKinds } from "#core/arrivals/limits.ts";
import { addTurns, type Quarter, turnBox } from "#core/pages/turn-box.ts";
import { parseSha256, type Sha256 } from "#core/shared/brand.ts";
import type { Tx } from "../db/connect.ts";
import { content, contentPage } from "../documents/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import type { Landed } from "../ports/landing-store.ts";
import { keptBody } from "../reading/read-outcome.ts";
import { keptWords, type PageRow } from "../reading/page-rows.ts";
import { PAGE_BREAK, type SourcePage } from "./load-sources.ts";

/** Rows written in one statement. */
const AT_ONCE = 200;

/** A page that goes into a file: where it comes from, what is known of it there (all of it when it is turned), and how it is turned. */
export interface PageGoing {
  /** The content that it comes from. */
  readonly of: Sha256;
  readonly page: SourcePage | undefined;
  readonly turn: Quarter;
}

/** What is known of a file's pages before it is made. */
export interface KnownPages {
  readonly pages: readonly (Omit<PageGoing, "page"> & { readonly page: SourcePage })[];
  readonly body: string;
}

/** A file that the bench made; `known` null when it has a page that was not looked at yet. */
export interface MadeOfPages {
  readonly landed: Landed;
  readonly known: KnownPages | null;
}

/** Puts together what is known of pages; null when one of them was not looked at yet. It needs no file: it is done while that is made. */
export function knowPages(pages: readonly PageGoing[]): KnownPages | null {
  const looked = pages.flatMap(({ of, page, turn }) => (page?.isLooked ? [{ of, page, turn }] : []));
  if (looked.length < pages.length) return null;
  return { pages: looked, body: keptBody(looked.map(({ page }) => page.text).join(PAGE_BREAK)).body };
}

/**
 * Enters files that the bench made, with what is known of their pages from where they came from, turned as they were: nothing has to be read again.
 * Answers those of which that is all there is to know; one with a page that was not looked at yet is read like any other file.
 */
export async function keepPages(tx: Tx, files: readonly MadeOfPages[]): Promise<ReadonlySet<Sha256>> {
  const ready = new Set<Sha256>();
  const distinct = [...new Map(files.map((f) => [f.landed.sha256, f])).values()];
  if (distinct.length === 0) return ready;
  const hashes = distinct.map((f) => f.landed.sha256);
  const known = await tx
    .select({ sha256: content.sha256, state: content.state, looked: content.looked })
    .from(content)
    .where(inArray(content.sha256, hashes));
  for (const k of known) if (k.state === "read" && k.looked === "yes") ready.add(parseSha256(k.sha256));
  const fresh = distinct.filter((f) => !known.some((k) => k.sha256 === f.landed.sha256));
  const rows: (typeof contentPage.$inferInsert)[] = [];
  const copies: Copy[] = [];
  const contents: NewContent[] = [];
  for (const { landed, known: part } of fresh) {
    if (part === null) {
      contents.push({ sha256: landed.sha256, size_bytes: landed.sizeBytes, pages: null, body: null });
      continue;
    }
    ready.add(landed.sha256);
    contents.push({ sha256: landed.sha256, size_bytes: landed.sizeBytes, pages: part.pages.length, body: part.body });
    for (const [i, { of, page, turn }] of part.pages.entries())
      if (turn === 0 || !page.row) copies.push({ sha256: landed.sha256, number: i + 1, of, page: page.number });
      else rows.push({ sha256: landed.sha256, ...turnRow(page.row, turn), number: i + 1 });
  }
  await enterContents(tx, contents);
  for (let at = 0; at < rows.length; at += AT_ONCE)
    await tx
      .insert(contentPage)
      .values(rows.slice(at, at + AT_ONCE))
      .onConflictDoNothing();
  await copyPages(tx, copies);
  // What they say as numbers takes as long as all else of it together, and is found by the worker.
  const printless = fresh.filter((f) => f.known !== null).map((f) => f.landed.sha256);
  if (printless.length > 0) await addJob(tx, "print", { contents: printless }, { key: `print:${printless[0]}` });
  return ready;
}

/** A content as it is entered; without pages it has to be read first. */
interface NewContent {
  readonly sha256: Sha256;
  readonly size_bytes: number;
  readonly pages: number | null;
  readonly body: string | null;
}

/** One parameter for all of them: many times faster than one for each value. */
async function enterContents(tx: Tx, contents: readonly NewContent[]): Promise<void> {
  if (contents.length === 0) return;
  await tx.execute(sql`insert into content (sha256, size_bytes, kind, media_type, state, pages, body, read_at, looked)
    select c.sha256, c.size_bytes, case when c.pages is not null then 'pdf' end, case when c.pages is not null then ${contentKinds.pdf.mediaType} end,
      case when c.pages is null then 'unread' else 'read' end, c.pages, c.body, case when c.pages is not null then ${now()}::timestamptz end, case when c.pages is null then 'no' else 'yes' end
    from json_to_recordset(${JSON.stringify(contents)}::json) as c(sha256 text, size_bytes bigint, pages int, body text) on conflict do nothing`);
}

/** A page that is as it was, in another file. */
interface Copy {
  readonly sha256: Sha256;
  readonly number: number;
  readonly of: Sha256;
  readonly page: number;
}

/** Copies rows of pages within the database: their words, a hundred kilobytes for a long page, go nowhere else. */
async function copyPages(tx: Tx, copies: readonly Copy[]): Promise<void> {
  if (copies.length === 0) return;
  await tx.execute(sql`
    insert into content_page (sha256, number, width_points, height_points, words, words_from, ink, codes, turn, slant, print)
    select c.sha256, c.number, p.width_points, p.height_points, p.words, coalesce(p.words_from, 'none'), coalesce(p.ink, -1), p.codes, p.turn, p.slant, p.print
    from jsonb_to_recordset(${JSON.stringify(copies)}::jsonb) as c(sha256 text, number int, "of" text, page int)
    join content_page p on p.sha256 = c."of" and p.number = c.page
    on conflict do nothing`);
}

function turnRow(row: PageRow, turn: Quarter) {
  const sideways = turn === 90 || turn === 270;
  const moved = (box: PageRow["words"][number]["box"]) => turnBox(box, turn, row.widthPoints, row.heightPoints);
  return {
    widthPoints: sideways ? row.heightPoints : row.widthPoints,
    heightPoints: sideways ? row.widthPoints : row.heightPoints,
    words: keptWords(turn === 0 ? row.words : row.words.map((w) => ({ text: w.text, box: moved(w.box) }))),
    wordsFrom: row.wordsFrom ?? "none",
    ink: row.ink ?? -1,
    codes: row.codes.map((c) => ({ ...c, box: moved(c.box) })),
    turn: addTurns(row.turn, -turn),
    slant: row.slant,
    print: turn === 0 ? row.print : null,
  };
}
