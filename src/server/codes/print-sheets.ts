import { PDFDocument, type PDFFont, type PDFPage, rgb, StandardFonts } from "@cantoo/pdf-lib";
import { z } from "zod";
import { allowsRecord } from "#core/access/grants.ts";
import { writeOwnCode } from "#core/codes/own-code.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { loadDocumentTypes, loadRecordTypes } from "../records/load-types.ts";
import { drawCode } from "./draw-code.ts";
import { makeCode } from "./make-code.ts";

/** Sheets that are printed in one go. */
const SHEETS_MAX = 500;

export const sheetsSchema = z.object({
  /** Cover sheets lie before pages, labels are stuck on a first page, separators only divide. */
  kind: z.enum(["coverSheet", "label", "separator"]),
  items: z
    .array(
      z.object({
        company: z.string().max(20),
        type: z.string().max(40),
        key: z.string().max(120),
        documentType: z.string().max(40).nullable().default(null),
      }),
    )
    .max(SHEETS_MAX)
    .default([]),
  /** How many separators. */
  count: z.number().int().min(1).max(SHEETS_MAX).default(1),
  /** For labels: how many of the first sheet are used up already. */
  used: z.number().int().min(0).max(23).default(0),
});
export type SheetsWish = z.infer<typeof sheetsSchema>;

const A4 = [595.28, 841.89] as const;
const ink = rgb(0.11, 0.14, 0.19);
/** Labels on an A4 sheet: three across, eight down, 70 × 37 mm, as sold everywhere. */
const across = 3;
const down = 8;
const millimetres = 72 / 25.4;
/** Sizes that what a label is for is written in, points: the largest that has room. */
const LABEL_SIZES = [10, 9, 8, 7] as const;

interface Fonts {
  readonly plain: PDFFont;
  readonly bold: PDFFont;
}
interface Lines {
  readonly code: string;
  readonly head: string;
  /** What of the head must be readable where there is little room; null: all of it. */
  readonly key: string | null;
  readonly lines: readonly string[];
}

/**
 * Cover sheets, labels or separators as a PDF, one for each item. Each carries its code as QR and Code 128 and in letters, and says in words what it
 * stands for. Refuses unknown-record (also for those the person may not see), unknown-type, not-allowed, bad-input (nothing to print).
 */
export async function printSheets(actor: Actor, wish: SheetsWish): Promise<Result<Uint8Array>> {
  const sheets: Lines[] = [];
  if (wish.kind === "separator") {
    const code = writeOwnCode({ kind: "separator", number: 0 });
    for (let i = 0; i < wish.count; i++)
      sheets.push({
        code,
        head: "Separator",
        key: null,
        lines: ["A new document starts after this sheet.", "Put it between documents. It can be reused."],
      });
  } else {
    if (wish.items.length === 0) return refuse("bad-input", undefined, [{ path: "items", message: "names no record" }]);
    const [recordTypes, documentTypes] = [await loadRecordTypes(), await loadDocumentTypes()];
    for (const item of wish.items) {
      const row = await findVisibleRecord(actor, item.type, item.key, item.company);
      if (!row) return refuse("unknown-record", `${item.type} ${item.key}`);
      if (!allowsRecord(actor.grants, "file", row.company, row.type)) return refuse("not-allowed", item.key);
      const type = item.documentType === null ? null : documentTypes.find((t) => t.key === item.documentType);
      if (type === undefined) return refuse("unknown-type", item.documentType ?? "");
      const code = await makeCode(db(), { kind: wish.kind, recordId: row.id, documentType: item.documentType, by: actor.id });
      const recordType = recordTypes.find((t) => t.key === row.type);
      sheets.push({
        code,
        head: `${recordType?.label ?? row.type} ${row.key}`,
        key: row.key,
        lines: [row.title, type?.label ?? "Any document type", row.company],
      });
    }
  }
  return ok(await draw(wish, sheets));
}

async function draw(wish: SheetsWish, sheets: readonly Lines[]): Promise<Uint8Array> {
  const pdf = await PDFDocument.create();
  pdf.setTitle(wish.kind === "label" ? "Labels" : wish.kind === "separator" ? "Separator sheets" : "Cover sheets");
  const fonts: Fonts = { plain: await pdf.embedFont(StandardFonts.Helvetica), bold: await pdf.embedFont(StandardFonts.HelveticaBold) };
  if (wish.kind !== "label") {
    for (const sheet of sheets) await drawCover(pdf, pdf.addPage([...A4]), sheet, fonts, wish.kind === "separator");
    return pdf.save();
  }
  let page: PDFPage | null = null;
  for (const [i, sheet] of sheets.entries()) {
    const at = (i + wish.used) % (across * down);
    if (page === null || at === 0) page = pdf.addPage([...A4]);
    await drawLabel(pdf, page, sheet, fonts, at);
  }
  return pdf.save();
}

async function drawCover(pdf: PDFDocument, page: PDFPage, sheet: Lines, fonts: Fonts, divides: boolean): Promise<void> {
  const [width, height] = A4;
  page.drawRectangle({ x: 0, y: height - 26, width, height: 26, color: ink });
  write(page, divides ? "SEPARATOR SHEET" : "COVER SHEET", { x: 56, y: height - 18, size: 11, font: fonts.bold, color: rgb(1, 1, 1) });
  write(page, sheet.head, {
    x: 56,
    y: height - 110,
    size: fittingSize(sheet.head, fonts.bold, width - 96, [30, 24, 18]) ?? 18,
    font: fonts.bold,
  });
  sheet.lines.forEach((line, i) => write(page, line, { x: 56, y: height - 146 - i * 24, size: 16, font: fonts.plain }));
  const qr = await pdf.embedPng(await drawCode("qrcode", sheet.code));
  page.drawImage(qr, { x: 56, y: 330, width: 190, height: 190 });
  const bars = await pdf.embedPng(await drawCode("code128", sheet.code));
  page.drawImage(bars, { x: 290, y: 390, width: 250, height: 80 });
  write(page, sheet.code, { x: 290, y: 362, size: 20, font: fonts.bold });
  const foot = [
    ...(divides ? [] : ["The pages after this sheet, up to the next one, are one document of this record."]),
    "The sheet itself is not filed.",
  ];
  foot.forEach((line, i) => write(page, line, { x: 56, y: 120 - i * 16, size: 11, font: fonts.plain }));
}

async function drawLabel(pdf: PDFDocument, page: PDFPage, sheet: Lines, fonts: Fonts, at: number): Promise<void> {
  const [cellWidth, cellHeight] = [70 * millimetres, 37 * millimetres];
  const x = (at % across) * cellWidth + 5 * millimetres;
  const top = A4[1] - Math.floor(at / across) * cellHeight - 4.5 * millimetres;
  const side = 22 * millimetres;
  const qr = await pdf.embedPng(await drawCode("qrcode", sheet.code));
  page.drawImage(qr, { x, y: top - side, width: side, height: side });
  const right = x + side + 3 * millimetres;
  const room = 36 * millimetres;
  // A number that is cut off tells nobody anything: without room for more it stands alone.
  const size = fittingSize(sheet.head, fonts.bold, room, LABEL_SIZES);
  const head = size === null ? (sheet.key ?? sheet.head) : sheet.head;
  const headSize = size ?? fittingSize(head, fonts.bold, room, LABEL_SIZES) ?? 7;
  write(page, head, { x: right, y: top - 10, size: headSize, font: fonts.bold, room });
  sheet.lines.slice(0, 2).forEach((line, i) => write(page, line, { x: right, y: top - 23 - i * 11, size: 8, font: fonts.plain, room }));
  const bars = await pdf.embedPng(await drawCode("code128", sheet.code));
  page.drawImage(bars, { x: right, y: top - side, width: room, height: 8 * millimetres });
  write(page, sheet.code, { x, y: top - side - 9, size: 8, font: fonts.bold });
}

/** The first of these sizes at which a line has room; null when at none. */
function fittingSize(text: string, font: PDFFont, room: number, sizes: readonly number[]): number | null {
  const shown = spelled(text, font);
  return sizes.find((size) => font.widthOfTextAtSize(shown, size) <= room) ?? null;
}

/** A line in the letters that a font has: others are written without their marks, or as a question mark. */
function spelled(text: string, font: PDFFont): string {
  const known = new Set(font.getCharacterSet());
  return Array.from(text.normalize("NFC"))
    .map((c) =>
      known.has(c.codePointAt(0) ?? 0) ? c : (Array.from(c.normalize("NFD")).find((d) => known.has(d.codePointAt(0) ?? 0)) ?? "?"),
    )
    .join("");
}

/** Writes a line, cut to its room. */
function write(
  page: PDFPage,
  text: string,
  at: {
    readonly x: number;
    readonly y: number;
    readonly size: number;
    readonly font: PDFFont;
    readonly color?: ReturnType<typeof rgb>;
    readonly room?: number;
  },
): void {
  const room = at.room ?? A4[0] - at.x - 40;
  let shown = spelled(text, at.font);
  if (at.font.widthOfTextAtSize(shown, at.size) > room) {
    while (shown.length > 1 && at.font.widthOfTextAtSize(`${shown}…`, at.size) > room) shown = shown.slice(0, -1);
    shown += "…";
  }
  page.drawText(shown, { x: at.x, y: at.y, size: at.size, font: at.font, color: at.color ?? ink });
}
