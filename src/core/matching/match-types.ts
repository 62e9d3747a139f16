import type { Box } from "../reading/page-lines.ts";
import type { Reading } from "../reading/reading.ts";
import type { ReferenceKind } from "../records/record-references.ts";
import type { FieldValues } from "../records/record-type.ts";
import type { EvidenceKind } from "./match-weights.ts";
import type { Place, Probe } from "./probe-paper.ts";

/** A record that may be the one, with what it is compared by. */
export interface MatchRecord {
  readonly id: number;
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly isStanding: boolean;
  readonly status: string | null;
  readonly date: string | null;
  readonly amount: string | null;
  readonly currency: string | null;
  readonly fields: FieldValues;
  readonly parentId: number | null;
  readonly chainId: number | null;
}

/** A record and what named it on the document. */
export interface MatchHit {
  readonly recordId: number;
  readonly kind: ReferenceKind;
  readonly reference: string;
}

/** A document as matching sees it. */
export interface MatchPaper {
  readonly probes: readonly Probe[];
  readonly readings: readonly Reading[];
  /** Document types it may be, each with its probability and the record types it is usually clipped to, the most usual first. */
  readonly types: readonly { readonly type: string; readonly certainty: number; readonly usualFor: readonly string[] }[];
  /** The company it came in for, and the one its pages are addressed to; null when nothing says. */
  readonly company: string | null;
  readonly addressed: { readonly company: string; readonly place: Place } | null;
  readonly receivedOn: string;
  /** It seems to be several documents in one: then nothing is sure of the whole. */
  readonly isSeveral: boolean;
  /** It lists several invoices, as statements do: its sum is theirs, and it is about their account. */
  readonly listsInvoices?: boolean;
  /** Codes of filed documents with its number from its sender. */
  readonly doubles: readonly string[];
  /** Its words, folded, as one text: for vessels and routes. */
  readonly folded: string;
  /** Records said on the way in or by a barcode. */
  readonly saidId: number | null;
  /** Records that mails are filed to which it answers. */
  readonly thread?: readonly number[];
  readonly codes: readonly { readonly recordId: number; readonly place: Place }[];
}

/** Why, or why not: what it is and where on the document it stands. */
export interface Reason {
  readonly kind: EvidenceKind;
  /** What of the record it is about, such as its number. */
  readonly about: string;
  readonly text: string;
  readonly page: number | null;
  readonly box: Box | null;
  readonly where: Place["where"] | "record";
  readonly against: boolean;
  /** Log-odds it added. */
  readonly weight: number;
}

/** What clashes: such a suggestion is never sure. */
export type Clash = "double" | "several-papers" | "other-sender" | "other-company" | "closed" | "amount-far" | "iban-differs" | "alike";

export interface Suggestion {
  readonly recordId: number;
  readonly certainty: number;
  readonly reasons: readonly Reason[];
  readonly clashes: readonly { readonly code: Clash; readonly detail: string }[];
}

export interface Suggested {
  readonly suggestions: readonly Suggestion[];
  /** Probability that it belongs to none of the records. */
  readonly none: number;
  /** The account that the document is from, where that is known. */
  readonly senderId: number | null;
}
