import { mkdir, writeFile } from "node:fs/promises";
import path from "node:path";
import {
  PDFArray,
  PDFDict,
  PDFDocument,
  type PDFFont,
  PDFName,
  PDFNumber,
  type PDFPage,
  type PDFRef,
  PDFString,
  rgb,
  StandardFonts,
} from "@cantoo/pdf-lib";
import { sql } from "drizzle-orm";
import { hasPictures } from "#core/arrivals/limits.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { composePdfs } from "../bench/compose-file.ts";
import { db } from "../db/connect.ts";
import { localFile } from "../documents/local-file.ts";
import { AppError } from "../ports/app-error.ts";
import { canLayOut, isLaidOut, layOut } from "../reading/lay-out.ts";
import { pageSource } from "../reading/page-picture.ts";
import { runTool } from "../reading/run-tool.ts";
import type { PackedPaper, PackedRecord } from "./load-papers.ts";
import type { LeftOut, PackAbout } from "./write-bag.ts";

/** Pages of documents in one PDF; more are taken out as a folder. */
export const PDF_PAGES_MAX = 20_000;
/** Longest time that one run of the tool may take, ms. */
const TIMEOUT_MS = 10 * 60_000;
/** Text of a document without pages that is put in, letters. */
const TEXT_MAX = 60_000;
const A4 = [595.28, 841.89] as const;
const MARGIN = 48;
const ink = rgb(0.11, 0.14, 0.19);
const grey = rgb(0.39, 0.42, 0.49);

interface Part {
  readonly paper: PackedPaper;
  readonly file: string;
  readonly pages: readonly { readonly width: number; readonly height: number }[];
  /** Said in the index: what stands here instead of its pages. */
  readonly instead: string | null;
}
interface Fonts {
  readonly plain: PDFFont;
  readonly bold: PDFFont;
}

/**
 * Writes a pack as one PDF: an index whose lines lead to the documents, bookmarks, and every document with a line at its foot that says which it is. Pictures
 * and texts become pages; what cannot is listed with the reason. Documents are laid beneath pages of our own, so that no script, form or action of theirs
 * comes along. `folder` is for what is made on the way; the caller clears it.
 */
export async function writePdf(
  target: string,
  about: PackAbout,
  records: AsyncIterable<PackedRecord>,
  folder: string,
  onPaper: () => Promise<void>,
): Promise<{ readonly records: number; readonly papers: number; readonly leftOut: readonly LeftOut[] }> {
  const leftOut: LeftOut[] = [];
  const chapters: { readonly record: PackedRecord; readonly parts: Part[] }[] = [];
  const put = new Set<string>();
  let pages = 0;
  for await (const record of records) {
    const parts: Part[] = [];
    for (const paper of record.papers) {
      if (put.has(paper.code)) continue;
      put.add(paper.code);
      const part = await partOf(paper, path.join(folder, `part-${put.size}`));
      await onPaper();
      if (typeof part === "string") leftOut.push({ code: paper.code, title: paper.title, why: part });
      else if ((pages += part.pages.length) > PDF_PAGES_MAX) throw new AppError("pack-too-long", "never", "the pack has too many pages");
      else parts.push(part);
    }
    chapters.push({ record, parts });
  }
  const parts = chapters.flatMap((c) => c.parts);
  const skeleton = await drawSkeleton(about, chapters, leftOut);
  const skeletonFile = path.join(folder, "skeleton.pdf");
  await writeFile(skeletonFile, skeleton.bytes);
  if (parts.length === 0) await writeFile(target, skeleton.bytes, { flag: "wx", mode: 0o640 });
  else {
    const papersFile = path.join(folder, "papers.pdf");
    const args = path.join(folder, "arguments");
    // A file of arguments: ten thousand names do not fit on a command line. One argument on each line, whatever is in it.
    await writeFile(args, ["--empty", "--pages", ...parts.flatMap((p) => [p.file, `1-${p.pages.length}`]), "--", papersFile].join("\n"));
    await runQpdf([`@${args}`]);
    await runQpdf([skeletonFile, "--underlay", papersFile, `--to=${skeleton.indexPages + 1}-z`, "--from=1-z", "--", target]);
  }
  return { records: chapters.length, papers: parts.length, leftOut };
}

async function runQpdf(args: readonly string[]): Promise<void> {
  const run = await runTool("qpdf", ["--warning-exit-0", ...args], { timeoutMs: TIMEOUT_MS, stdoutMax: 65_536 }, { gently: true });
  if (run.exitCode !== 0) throw new AppError("pack-failed", "later", "the pages could not be put together");
}

/** A document as pages that can be laid in; else why not. */
async function partOf(paper: PackedPaper, base: string): Promise<Part | string> {
  let file: string;
  try {
    file = await localFile(parseSha256(paper.sha256));
  } catch (error) {
    if (error instanceof AppError && error.code === "bytes-missing") return "its file was not found";
    throw error;
  }
  if (paper.kind === "pdf") {
    const sizes = await pageSizes(file);
    return sizes === null || sizes.length === 0 ? "it is locked or broken" : { paper, file, pages: sizes, instead: null };
  }
  if (hasPictures(paper.kind)) {
    const drawnFrom = await pageSource(parseSha256(paper.sha256), paper.kind);
    if (!drawnFrom.ok) return "its picture cannot be read";
    await mkdir(base, { recursive: true });
    const { file: drawn, kind } = drawnFrom.value;
    const pages = Array.from({ length: paper.pages ?? 1 }, (_, i) => ({ file: drawn, kind, page: i + 1, turn: 0 as const }));
    const made = await composePdfs([pages], base);
    const first = made.ok ? made.value[0] : undefined;
    const sizes = first === undefined ? null : await pageSizes(first);
    return first === undefined || sizes === null ? "its picture cannot be read" : { paper, file: first, pages: sizes, instead: null };
  }
  if (isLaidOut(paper.kind) && canLayOut()) {
    const made = await layOut(parseSha256(paper.sha256));
    const sizes = made.ok ? await pageSizes(made.value) : null;
    if (made.ok && sizes !== null && sizes.length > 0)
      return { paper, file: made.value, pages: sizes, instead: "converted to pages; the original file is in the folder format" };
  }
  const text = (
    await db().execute<{ body: string | null }>(sql`select left(body, ${TEXT_MAX + 1}) as body from content where sha256 = ${paper.sha256}`)
  ).rows[0]?.body;
  if (text == null || text.trim() === "") return "it has neither pages nor text";
  const drawn = await drawText(text);
  await writeFile(`${base}.pdf`, drawn.bytes);
  return { paper, file: `${base}.pdf`, pages: drawn.sizes, instead: "its text; the original file is in the folder format" };
}

/** Sizes of a PDF's pages as they are displayed, points; null when it cannot be opened without a password. */
async function pageSizes(file: string): Promise<readonly { readonly width: number; readonly height: number }[] | null> {
  const run = await runTool("pdfinfo", ["-f", "1", "-l", "-1", file], { timeoutMs: 30_000, stdoutMax: 4 * 1024 * 1024 }, { gently: true });
  if (run.exitCode !== 0) return null;
  const text = run.stdout.toString("utf8");
  const sizes: { width: number; height: number }[] = [];
  for (const line of text.split("\n")) {
    const size = /^Page\s+(\d+) size:\s+([\d.]+) x ([\d.]+) pts/.exec(line);
    if (size) sizes[Number(size[1]) - 1] = { width: Number(size[2]), height: Number(size[3]) };
    const turn = /^Page\s+(\d+) rot:\s+(\d+)/.exec(line);
    const known = turn ? sizes[Number(turn[1]) - 1] : undefined;
    if (turn && known && Number(turn[2]) % 180 === 90) sizes[Number(turn[1]) - 1] = { width: known.height, height: known.width };
  }
  return sizes;
}

/** Letters that the standard fonts have; others become a question mark. */
const plainText = (text: string): string =>
  text
    .replace(/[\u2018\u2019]/g, "'")
    .replace(/[\u201c\u201d]/g, '"')
    .replace(/[\u2010-\u2015]/g, "-")
    .replace(/\t/g, "    ")
    .replace(/[^\n\x20-\x7e\xa0-\xff\u20ac]/g, "?");

async function drawText(
  text: string,
): Promise<{ readonly bytes: Uint8Array; readonly sizes: readonly { width: number; height: number }[] }> {
  const pdf = await PDFDocument.create();
  const font = await pdf.embedFont(StandardFonts.Helvetica);
  const lines = plainText(text.length > TEXT_MAX ? `${text.slice(0, TEXT_MAX)}\n(the rest is in the original file)` : text)
    .split("\n")
    .flatMap((line) => wrapped(line, font, 9.5, A4[0] - 2 * MARGIN));
  for (let at = 0; at === 0 || at < lines.length; at += 58) {
    const page = pdf.addPage([...A4]);
    lines
      .slice(at, at + 58)
      .forEach((line, i) => page.drawText(line, { x: MARGIN, y: A4[1] - MARGIN - 12 - i * 12.6, size: 9.5, font, color: ink }));
  }
  return { bytes: await pdf.save(), sizes: pdf.getPages().map((p) => p.getSize()) };
}

function wrapped(line: string, font: PDFFont, size: number, width: number): readonly string[] {
  const lines: string[] = [];
  let now = "";
  for (const word of line.split(" ")) {
    const longer = now === "" ? word : `${now} ${word}`;
    if (now !== "" && font.widthOfTextAtSize(longer, size) > width) {
      lines.push(now);
      now = word;
    } else now = longer;
  }
  // A word longer than a line (a link, a key) is cut.
  return [...lines, now].flatMap((l) => (l.length > 110 ? (l.match(/.{1,110}/g) ?? []) : [l]));
}

/** Index, bookmarks, and a page for every page of a document with nothing on it but its line at the foot. */
async function drawSkeleton(
  about: PackAbout,
  chapters: readonly { readonly record: PackedRecord; readonly parts: readonly Part[] }[],
  leftOut: readonly LeftOut[],
): Promise<{ readonly bytes: Uint8Array; readonly indexPages: number }> {
  const pdf = await PDFDocument.create();
  pdf.setTitle(about.label);
  pdf.setAuthor(about.madeBy);
  pdf.setCreationDate(new Date(about.madeAt));
  const fonts: Fonts = { plain: await pdf.embedFont(StandardFonts.Helvetica), bold: await pdf.embedFont(StandardFonts.HelveticaBold) };
  const starts = new Map<Part, PDFPage>();
  const firsts: {
    readonly title: string;
    readonly page: PDFPage;
    readonly children: { readonly title: string; readonly page: PDFPage }[];
  }[] = [];
  for (const { record, parts } of chapters) {
    const children: { title: string; page: PDFPage }[] = [];
    for (const part of parts)
      part.pages.forEach((size, i) => {
        const page = pdf.addPage([size.width, size.height]);
        if (i === 0) {
          starts.set(part, page);
          children.push({ title: `${part.paper.title} ${part.paper.code}`, page });
        }
        const foot = `${part.paper.code} · ${part.paper.title} · version ${part.paper.version} · page ${i + 1} of ${part.pages.length} · sha-256 ${part.paper.sha256.slice(0, 16)}`;
        const width = Math.min(size.width - 12, fonts.plain.widthOfTextAtSize(plainText(foot), 7) + 8);
        page.drawRectangle({ x: 4, y: 3, width, height: 11, color: rgb(1, 1, 1), opacity: 0.85 });
        page.drawText(plainText(foot), { x: 8, y: 6, size: 7, font: fonts.plain, color: grey });
      });
    const page = children[0]?.page;
    if (page) firsts.push({ title: `${record.key} ${record.title}`, page, children });
  }
  const indexPages = drawIndex(pdf, fonts, about, chapters, leftOut, starts);
  drawBookmarks(pdf, firsts);
  return { bytes: await pdf.save({ useObjectStreams: true }), indexPages };
}

function drawIndex(
  pdf: PDFDocument,
  fonts: Fonts,
  about: PackAbout,
  chapters: readonly { readonly record: PackedRecord; readonly parts: readonly Part[] }[],
  leftOut: readonly LeftOut[],
  starts: ReadonlyMap<Part, PDFPage>,
): number {
  let count = 0;
  let page = pdf.insertPage(count++, [...A4]);
  let y = A4[1] - MARGIN - 16;
  const line = (text: string, size: number, font: PDFFont, x = MARGIN, color = ink): void => {
    if (y < MARGIN + 14) {
      page = pdf.insertPage(count++, [...A4]);
      y = A4[1] - MARGIN - 10;
    }
    let cut = plainText(text);
    while (cut.length > 4 && font.widthOfTextAtSize(cut, size) > A4[0] - MARGIN - x) cut = `${cut.slice(0, -4)}...`;
    page.drawText(cut, { x, y, size, font, color });
    y -= size * 1.5;
  };
  line(about.label, 17, fonts.bold);
  line(`${about.chosen}`, 9.5, fonts.plain, MARGIN, grey);
  line(`Created by ${about.madeBy} on ${about.madeAt.slice(0, 16).replace("T", " ")} UTC`, 9.5, fonts.plain, MARGIN, grey);
  for (const { record, parts } of chapters) {
    y -= 8;
    line(`${record.key}  ${record.title}`, 11, fonts.bold);
    if (parts.length === 0) line("no documents", 9.5, fonts.plain, MARGIN + 12, grey);
    for (const part of parts) {
      const { paper } = part;
      line([paper.code, paper.title, paper.documentDate, part.instead].filter(Boolean).join("  ·  "), 9.5, fonts.plain, MARGIN + 12);
      const to = starts.get(part);
      if (to) link(pdf, page, [MARGIN, y + 2, A4[0] - MARGIN, y + 16], to.ref);
    }
  }
  if (leftOut.length > 0) {
    y -= 8;
    line("Not in this pack", 11, fonts.bold);
    for (const l of leftOut) line(`${l.code}  ·  ${l.title}  ·  ${l.why}`, 9.5, fonts.plain, MARGIN + 12);
  }
  return count;
}

function link(pdf: PDFDocument, from: PDFPage, box: readonly [number, number, number, number], to: PDFRef): void {
  const annotation = pdf.context.obj({
    Type: "Annot",
    Subtype: "Link",
    Rect: [...box],
    Border: [0, 0, 0],
    Dest: [to, PDFName.of("Fit")],
  });
  const ref = pdf.context.register(annotation);
  const known = from.node.lookupMaybe(PDFName.of("Annots"), PDFArray);
  if (known) known.push(ref);
  else from.node.set(PDFName.of("Annots"), pdf.context.obj([ref]));
}

interface Bookmark {
  readonly title: string;
  readonly page: PDFPage;
  readonly children?: readonly Bookmark[];
}

/** The outline of the document: a list for each level, linked as the format wants it. */
function drawBookmarks(pdf: PDFDocument, marks: readonly Bookmark[]): void {
  if (marks.length === 0) return;
  const { context } = pdf;
  const root = context.nextRef();
  const level = (list: readonly Bookmark[], parent: PDFRef): { first: PDFRef; last: PDFRef; count: number } => {
    const refs = list.map(() => context.nextRef());
    const count = list.length;
    list.forEach((mark, i) => {
      const ref = refs[i];
      if (!ref) return;
      const item = PDFDict.withContext(context);
      item.set(PDFName.of("Title"), PDFString.of(plainText(mark.title).replace(/([\\()])/g, "\\$1")));
      item.set(PDFName.of("Parent"), parent);
      item.set(PDFName.of("Dest"), context.obj([mark.page.ref, PDFName.of("Fit")]));
      const [before, after] = [refs[i - 1], refs[i + 1]];
      if (before) item.set(PDFName.of("Prev"), before);
      if (after) item.set(PDFName.of("Next"), after);
      if (mark.children && mark.children.length > 0) {
        const within = level(mark.children, ref);
        item.set(PDFName.of("First"), within.first);
        item.set(PDFName.of("Last"), within.last);
        // Shut at first: a minus says so.
        item.set(PDFName.of("Count"), PDFNumber.of(-within.count));
      }
      context.assign(ref, item);
    });
    const [first, last] = [refs[0], refs.at(-1)];
    if (!first || !last) throw new Error("no bookmarks");
    return { first, last, count };
  };
  const top = level(marks, root);
  const outline = PDFDict.withContext(context);
  outline.set(PDFName.of("Type"), PDFName.of("Outlines"));
  outline.set(PDFName.of("First"), top.first);
  outline.set(PDFName.of("Last"), top.last);
  outline.set(PDFName.of("Count"), PDFNumber.of(top.count));
  context.assign(root, outline);
  pdf.catalog.set(PDFName.of("Outlines"), root);
}
