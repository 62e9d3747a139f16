import { readFile, stat } from "node:fs/promises";
import { parse } from "csv-parse/sync";
import { decodeText } from "./detect-kind.ts";
import { CELL_MAX, COLUMNS_MAX, keptBody, type Reader, ROWS_MAX, type TableSheet } from "./read-outcome.ts";
import { createReadStream } from "node:fs";

/** Bytes of a text or table that are read; the rest is kept but not shown. */
const TEXT_BYTES_MAX = 4 * 1024 * 1024;

/** Reads plain text and XML (as text: nothing in it is followed or run). */
export const readText: Reader = async (file) => {
  const { text, cut } = await readHead(file);
  const { body, truncated } = keptBody(text);
  return {
    pages: 1,
    pageTexts: [],
    body,
    outline: { kind: "text" },
    problem: cut || truncated ? { code: "truncated", detail: null } : null,
  };
};

/** Reads a CSV table with whichever separator it uses. Ragged rows are taken as they are. */
export const readCsv: Reader = async (file) => {
  const { text, cut } = await readHead(file);
  const sheet = csvSheet(text);
  const { body, truncated } = keptBody(text);
  return {
    pages: 1,
    pageTexts: [],
    body,
    outline: { kind: "table", sheets: [sheet] },
    problem: cut || truncated || sheet.truncated ? { code: "truncated", detail: null } : null,
  };
};

/** The rows of a CSV text, cut to what is shown. Never fails: what cannot be taken apart is one column of lines. */
export function csvSheet(text: string): TableSheet {
  const first = text.split(/\r\n|\n|\r/, 1)[0] ?? "";
  const separator = [";", "\t", ","].reduce((best, s) => (first.split(s).length > first.split(best).length ? s : best), ",");
  let rows: string[][];
  try {
    rows = parse(text, {
      delimiter: separator,
      relax_column_count: true,
      relax_quotes: true,
      skip_empty_lines: true,
      to: ROWS_MAX + 1,
      bom: true,
    });
  } catch {
    rows = text.split(/\r\n|\n|\r/, ROWS_MAX + 1).map((line) => [line]);
  }
  return tableSheet("", rows);
}

/** A sheet cut to the rows, columns and characters that are kept. */
export function tableSheet(name: string, rows: readonly (readonly string[])[]): TableSheet {
  const kept = rows.slice(0, ROWS_MAX).map((row) => row.slice(0, COLUMNS_MAX).map((cell) => keptBody(cell).body.slice(0, CELL_MAX)));
  return { name, rows: kept, truncated: rows.length > ROWS_MAX || rows.some((r) => r.length > COLUMNS_MAX) };
}

async function readHead(file: string): Promise<{ text: string; cut: boolean }> {
  const { size } = await stat(file);
  if (size <= TEXT_BYTES_MAX) return { text: decodeText(await readFile(file)), cut: false };
  const pieces: Buffer[] = [];
  for await (const piece of createReadStream(file, { end: TEXT_BYTES_MAX - 1 })) pieces.push(piece as Buffer);
  return { text: decodeText(Buffer.concat(pieces)), cut: true };
}
