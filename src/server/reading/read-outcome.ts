import type { ContentKind } from "#core/arrivals/limits.ts";
import type { ArrivalProblem } from "#core/arrivals/problems.ts";
import type { EInvoice } from "#core/reading/e-invoice.ts";
import type { PageText } from "#core/pages/page-text.ts";

/** What reading a file brought. `problem` that stops leaves the rest empty; notices stand beside what was read. */
export interface ReadOutcome {
  readonly pages: number | null;
  readonly pageTexts: readonly PageText[];
  readonly body: string;
  readonly outline: Outline | null;
  readonly problem: ArrivalProblem | null;
}

/** What a viewer shows of a file that has no pages of its own. */
export type Outline =
  | { readonly kind: "table"; readonly sheets: readonly TableSheet[] }
  | {
      readonly kind: "mail";
      readonly from: string;
      readonly to: string;
      readonly cc: string;
      readonly subject: string;
      readonly sentAt: string | null;
      /** Its own id, and those of the mails that it answers; absent in what was read before these were kept. */
      readonly messageId?: string | null;
      readonly answers?: readonly string[];
      readonly text: string;
      readonly parts: readonly MailPart[];
    }
  | { readonly kind: "invoice"; readonly invoice: EInvoice }
  | { readonly kind: "text" };

export interface TableSheet {
  readonly name: string;
  readonly rows: readonly (readonly string[])[];
  /** True when rows or columns were left out. */
  readonly truncated: boolean;
}

/** A part of a mail that became an arrival of its own, or was left aside. */
export interface MailPart {
  readonly part: number;
  readonly fileName: string;
  readonly mediaType: string;
  readonly sizeBytes: number;
  readonly aside: boolean;
}

/** Characters of running text that are kept; the rest of a longer file is neither shown nor searched. */
export const BODY_MAX = 1_000_000;
/** The same of a file with pages: some 2,000 full ones. What looks at a text as a whole looks at the beginning of it, so far as BODY_MAX. */
export const PAGES_BODY_MAX = 8_000_000;
/** What stands between the pages of a content's text. */
export const PAGE_BREAK = "\n\f\n";
/** Rows and columns of a table that are kept for showing. */
export const ROWS_MAX = 2000;
export const COLUMNS_MAX = 60;
/** Characters of one cell that are kept. */
export const CELL_MAX = 500;

export const nothingRead: ReadOutcome = { pages: null, pageTexts: [], body: "", outline: null, problem: null };

/** An outcome that only says what is wrong. */
export function problemOnly(code: ArrivalProblem["code"], detail: string | null = null): ReadOutcome {
  return { ...nothingRead, problem: { code, detail } };
}

/** Cuts a text to what is kept, without control characters that the database cannot hold. */
export function keptBody(text: string, max = BODY_MAX): { readonly body: string; readonly truncated: boolean } {
  const clean = text.replaceAll("\u0000", "").toWellFormed();
  return { body: clean.slice(0, max), truncated: clean.length > max };
}

/** The same of pages, by what each of them says. */
export const bodyOfPages = (texts: readonly string[]): ReturnType<typeof keptBody> => keptBody(texts.join(PAGE_BREAK), PAGES_BODY_MAX);

/** A kind with how its reader is called; for messages and logs. */
export type Reader = (file: string, options: ReadOptions) => Promise<ReadOutcome>;
export interface ReadOptions {
  readonly pagesMax: number;
  readonly fileName: string;
  readonly kind: ContentKind;
  /** Longest time on the clock, ms, where a reader has one of its own otherwise. */
  readonly clockMs?: number;
}
