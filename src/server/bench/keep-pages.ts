import { inArray, sql } from "drizzle-orm";
import { contentKinds } from "#core/arrivals/limits.ts";
import { addTurns, type Quarter, turnBox } from "#core/pages/turn-box.ts";
import { parseSha256, type Sha256 } from "#core/shared/brand.ts";
import type { Tx } from "../db/connect.ts";
import { content, contentPage } from "../documents/tables.ts";
import { now } from "../ports/clock.ts";
import type { Landed } from "../ports/landing-store.ts";
import { PAGE_BREAK, PAGES_BODY_MAX } from "../reading/read-outcome.ts";
import { keptWords, type PageRow } from "../reading/page-rows.ts";
import type { SourcePage } from "./load-sources.ts";

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
export type KnownPages = readonly (Omit<PageGoing, "page"> & { readonly page: SourcePage })[];

/** A file that the bench made; `known` null when it has a page that was not looked at yet. */
export interface MadeOfPages {
  readonly landed: Landed;
  readonly known: KnownPages | null;
}

/** Contents of which all is known, and those among them that are new. */
export interface KeptPages {
  readonly ready: ReadonlySet<Sha256>;
  readonly fresh: readonly Sha256[];
}

/** What is known of pages; null when one of them was not looked at yet. It needs no file: it is done while that is made. */
export function knowPages(pages: readonly PageGoing[]): KnownPages | null {
  const looked = pages.flatMap(({ of, page, turn }) => (page?.isLooked ? [{ of, page, turn }] : []));
  return looked.length < pages.length ? null : looked;
}

/**
 * Enters files that the bench made, with what is known of their pages from where they came from, turned as they were: nothing has to be read again.
 * Answers those of which that is all there is to know; one with a page that was not looked at yet is read like any other file. What the new ones say as
 * numbers takes as long to find as all else of them together: that is left to the worker.
 */
export async function keepPages(tx: Tx, files: readonly MadeOfPages[]): Promise<KeptPages> {
  const ready = new Set<Sha256>();
  const distinct = [...new Map(files.map((f) => [f.landed.sha256, f])).values()];
  if (distinct.length === 0) return { ready, fresh: [] };
  const hashes = distinct.map((f) => f.landed.sha256);
  const known = await tx
    .select({ sha256: content.sha256, state: content.state, looked: content.looked })
    .from(content)
    .where(inArray(content.sha256, hashes));
  for (const k of known) if (k.state === "read" && k.looked === "yes") ready.add(parseSha256(k.sha256));
  const fresh = distinct.filter((f) => !known.some((k) => k.sha256 === f.landed.sha256));
  const rows: (typeof contentPage.$inferInsert)[] = [];
  const going: Going[] = [];
  const contents: NewContent[] = [];
  for (const { landed, known: part } of fresh) {
    if (part === null) {
      contents.push({ sha256: landed.sha256, size_bytes: landed.sizeBytes, pages: null });
      continue;
    }
    ready.add(landed.sha256);
    contents.push({ sha256: landed.sha256, size_bytes: landed.sizeBytes, pages: part.length });
    for (const [i, { of, page, turn }] of part.entries()) {
      const turned = turn === 0 ? null : page.row;
      if (turned) rows.push({ sha256: landed.sha256, ...turnRow(turned, turn), number: i + 1 });
      going.push({ sha256: landed.sha256, number: i + 1, of, page: page.number, text: page.text, copied: turned === null });
    }
  }
  await enterContents(tx, contents, going);
  for (let at = 0; at < rows.length; at += AT_ONCE)
    await tx
      .insert(contentPage)
      .values(rows.slice(at, at + AT_ONCE))
      .onConflictDoNothing();
  return { ready, fresh: fresh.filter((f) => f.known !== null).map((f) => f.landed.sha256) };
}

/** A content as it is entered; without pages it has to be read first. */
interface NewContent {
  readonly sha256: Sha256;
  readonly size_bytes: number;
  readonly pages: number | null;
}

/** A page that goes into another file: as it was (`copied`), or turned. */
interface Going {
  readonly sha256: Sha256;
  readonly number: number;
  readonly of: Sha256;
  readonly page: number;
  /** What it says; null where the text of the content that it comes from holds it. */
  readonly text: string | null;
  readonly copied: boolean;
}

/**
 * Enters contents with their texts and pages, in one go. What pages say and where stays within the database: half a megabyte for a hundred pages. One
 * parameter for all of them: many times faster than one for each value.
 */
async function enterContents(tx: Tx, contents: readonly NewContent[], going: readonly Going[]): Promise<void> {
  if (contents.length === 0) return;
  await tx.execute(sql`
    with going as materialized (
      select * from json_to_recordset(${JSON.stringify(going)}::json) as g(sha256 text, number int, "of" text, page int, text text, copied boolean)),
    held as materialized (
      select sha256, string_to_array(body, ${PAGE_BREAK}) as texts from content where sha256 in (select "of" from going where text is null)),
    -- By itself: beside its text no row may carry all of what the source says.
    said as materialized (
      select g.sha256, g.number, coalesce(g.text, h.texts[g.page], '') as text from going g left join held h on g.text is null and h.sha256 = g."of"),
    bodies as (
      select sha256, left(string_agg(text, ${PAGE_BREAK} order by number), ${PAGES_BODY_MAX}) as body from said group by sha256),
    made as (
      insert into content (sha256, size_bytes, kind, media_type, state, pages, body, read_at, looked)
      select c.sha256, c.size_bytes, case when c.pages is not null then 'pdf' end, case when c.pages is not null then ${contentKinds.pdf.mediaType} end,
        case when c.pages is null then 'unread' else 'read' end, c.pages, b.body, case when c.pages is not null then ${now()}::timestamptz end,
        case when c.pages is null then 'no' else 'yes' end
      from json_to_recordset(${JSON.stringify(contents)}::json) as c(sha256 text, size_bytes bigint, pages int) left join bodies b on b.sha256 = c.sha256
      on conflict do nothing)
    insert into content_page (sha256, number, width_points, height_points, words, words_from, ink, codes, turn, slant, print)
    select g.sha256, g.number, p.width_points, p.height_points, p.words, coalesce(p.words_from, 'none'), coalesce(p.ink, -1), p.codes, p.turn, p.slant, p.print
    from going g join content_page p on p.sha256 = g."of" and p.number = g.page where g.copied
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
