import type { PageText, Word } from "./page-text.ts";

/** Running text and tables stand on no page, so their words get places as if they were typed: width of a letter, its height, and the step from line to line, points. */
const LETTER_WIDTH = 6;
const LETTER_HEIGHT = 10;
const LINE_STEP = 12;
/** Lines, and letters of a line, whose words have a place. */
const LINES_MAX = 1500;
const LINE_MAX = 2000;
/** Letters that a tab stands for. */
const TAB = 8;
/** Rows of a table whose words have a place, and letters a column is wide at most: a longer cell is set narrower, so that it stays in its column. */
const ROWS_MAX = 500;
const COLUMN_MAX = 40;
/** Letters between columns: a gap that parts phrases. */
const COLUMN_GAP = 3;

/** A word of running text, with where it begins. */
export interface TextWord extends Word {
  /** Letters of the text before it. */
  readonly at: number;
  /** Whether a tab or two blanks part it from the word before, as columns are set in plain text; true for the first of a line. */
  readonly isApart: boolean;
}

/** A sheet of a table: its name, empty where it has none, and the texts of its cells. */
export interface Sheet {
  readonly name: string;
  readonly rows: readonly (readonly string[])[];
}

/** A cell of a table with its words. */
export interface Cell {
  readonly row: number;
  readonly column: number;
  readonly words: readonly Word[];
}

/**
 * The words of running text, line by line, each with its place: the same text gives the same places, so that what was read off it is found where it is
 * shown. `firstLine` is the line that the text begins on.
 */
export function wordsOfText(text: string, firstLine = 0): readonly (readonly TextWord[])[] {
  const lines: TextWord[][] = [];
  let begins = 0;
  for (const line of text.split(/(\r\n|\n|\r|\f)/, LINES_MAX * 2)) {
    if (/^(\r\n|\n|\r|\f)$/.test(line)) {
      begins += line.length;
      continue;
    }
    lines.push(wordsOfLine(line.slice(0, LINE_MAX), begins, firstLine + lines.length));
    begins += line.length;
  }
  return lines;
}

function wordsOfLine(line: string, begins: number, row: number): TextWord[] {
  const words: TextWord[] = [];
  let column = 0;
  let isApart = true;
  for (const [piece] of line.matchAll(/\t+| +|[^ \t]+/g)) {
    if (piece.startsWith("\t")) {
      column += TAB;
      isApart = true;
    } else if (piece.startsWith(" ")) {
      column += piece.length;
      isApart ||= piece.length > 1;
    } else {
      const text = piece.trim();
      const at = begins;
      if (text !== "")
        words.push({
          text,
          at,
          isApart: isApart || words.length === 0,
          box: [column * LETTER_WIDTH, row * LINE_STEP, piece.length * LETTER_WIDTH, LETTER_HEIGHT],
        });
      column += piece.length;
      isApart = false;
    }
    begins += piece.length;
  }
  return words;
}

/** The cells of a table that hold something, each with its words where they stand: columns as wide as their longest cell, beneath the sheet's name. */
export function cellsOfTable(rows: readonly (readonly string[])[]): readonly Cell[] {
  const shown = rows.slice(0, ROWS_MAX);
  const widths: number[] = [];
  for (const row of shown)
    row.forEach((cell, i) => {
      widths[i] = Math.max(widths[i] ?? 1, Math.min(COLUMN_MAX, cell.length));
    });
  const starts: number[] = [];
  let at = 0;
  for (const width of widths) {
    starts.push(at);
    at += width + COLUMN_GAP;
  }
  return shown.flatMap((cells, row) =>
    cells.flatMap((cell, column) => {
      const letter = LETTER_WIDTH * Math.min(1, COLUMN_MAX / Math.max(1, cell.length));
      const words = [...cell.matchAll(/\S+/g)].map((m): Word => ({
        text: m[0],
        box: [(starts[column] ?? 0) * LETTER_WIDTH + m.index * letter, (row + 1) * LINE_STEP, m[0].length * letter, LETTER_HEIGHT],
      }));
      return words.length > 0 ? [{ row, column, words }] : [];
    }),
  );
}

/** Running text as a page. */
export const pageOfText = (text: string): PageText => asPage(1, wordsOfText(text).flat());

/** A sheet of a table as a page, its name above its cells; `number` is its place among the sheets. */
export const pageOfTable = (sheet: Sheet, number: number): PageText =>
  asPage(number, [...wordsOfText(sheet.name).flat(), ...cellsOfTable(sheet.rows).flatMap((c) => c.words)]);

/** The size goes with what stands on it: at least a page's, in letters of a usual line. */
function asPage(number: number, words: readonly Word[]): PageText {
  return {
    number,
    widthPoints: words.reduce((most, { box }) => Math.max(most, box[0] + box[2]), 600),
    heightPoints: words.reduce((most, { box }) => Math.max(most, box[1] + box[3]), 800),
    words,
  };
}

/** A mail's text as it is read: what it is about stands above, on a line of its own. */
export const textOfMail = (mail: { readonly subject: string; readonly text: string }): string =>
  `${mail.subject.replace(/[\r\n\f]/g, " ")}\n\n${mail.text}`;
/** The line that a mail's own text begins on, within `textOfMail`. */
export const MAIL_TEXT_LINE = 2;

/** What is shown of a document that has no pages of its own; an e-invoice is shown by its fields, not by its text. */
export type TypedOutline =
  | { readonly kind: "mail"; readonly subject: string; readonly text: string }
  | { readonly kind: "table"; readonly sheets: readonly Sheet[] }
  | { readonly kind: "text" | "invoice" };

/** Page `number` of such a document, of a table that sheet; null where it has none. `text` is its running text, where it is no more than that. */
export function typedPage(outline: TypedOutline | null, text: string | null, number: number): PageText | null {
  if (outline?.kind === "table") {
    const sheet = outline.sheets[number - 1];
    return sheet ? pageOfTable(sheet, number) : null;
  }
  if (number !== 1 || outline?.kind === "invoice") return null;
  if (outline?.kind === "mail") return pageOfText(textOfMail(outline));
  return text === null ? null : pageOfText(text);
}
