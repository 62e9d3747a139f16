import type { Box } from "./page-lines.ts";

/** Fields that are read off documents. Those of http-api.md, then those that only fill our own sheet. */
export const readingFields = [
  "party",
  "vatNumber",
  "iban",
  "documentNumber",
  "documentDate",
  "dueDate",
  "deliveryDate",
  "currency",
  "net",
  "tax",
  "total",
  "orderReference",
  "yourReference",
  "customerNumber",
  "language",
  "validUntil",
  "sailingDate",
  "batch",
  /** The last day of what was delivered over a period; deliveryDate is its first. */
  "deliveryUntil",
  /** The tax at one rate: the rate in per cent and the tax, parted by a blank, such as "20.00 971.50". */
  "taxAtRate",
  /** Whom the document is addressed to, and what is left to pay after what was paid before; of e-invoices (BT-44, BT-115). */
  "buyer",
  "payable",
] as const;
export type ReadingField = (typeof readingFields)[number];

/** A value that was read, where it stood, and how sure it is. */
export interface Reading {
  readonly field: ReadingField;
  /** Normalised: days YYYY-MM-DD, amounts 1234.56, identifiers without blanks. */
  readonly value: string;
  /** Probability that it is right. */
  readonly certainty: number;
  /** Null when it does not stand on a page: from structured data, a mail's head, or running text. */
  readonly page: number | null;
  readonly box: Box | null;
  /** The very text on the page. */
  readonly text: string;
  /** The label that announced it, as it stands on the page. */
  readonly label: string | null;
  /** What else it could be, the likelier first. */
  readonly others: readonly {
    readonly value: string;
    readonly certainty: number;
    readonly page: number | null;
    readonly box: Box | null;
    readonly text: string;
  }[];
  readonly from: "page" | "text" | "structured" | "learnt" | "person";
}

/** What does not fit together on a document; it lowers the certainty of what it is about. */
export interface ReadingDoubt {
  readonly code: "sums-differ" | "due-before-date" | "day-or-month" | "structured-differs" | "places-unclear" | "lines-differ";
  readonly fields: readonly ReadingField[];
  /** Values it is about, for the words. */
  readonly detail: string;
}

/** Everything that was read off a document. */
export interface PaperReadings {
  readonly readings: readonly Reading[];
  readonly doubts: readonly ReadingDoubt[];
  readonly language: string | null;
}
