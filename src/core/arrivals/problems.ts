/** What can be wrong with a document that was taken in. The original is kept whatever it says. */
export const problemCodes = [
  "empty",
  "locked",
  "broken",
  "mislabelled",
  "type-not-allowed",
  "too-many-pages",
  "too-slow",
  "not-readable",
  "truncated",
  "reader-missing",
] as const;
export type ProblemCode = (typeof problemCodes)[number];

export interface ArrivalProblem {
  readonly code: ProblemCode;
  /** Facts to say it with, such as "500 pages, at most 400"; never contents of the document. */
  readonly detail: string | null;
}

export interface ProblemWords {
  readonly short: string;
  readonly what: string;
  readonly next: string;
  /** Whether the arrival stops at `failed`; the others are notices on an arrival that is ready. */
  readonly stops: boolean;
}

/** The one table from problem to words. */
export const problemWords = {
  empty: { short: "empty file", what: "The file is empty.", next: "Ask the sender to send it again, or set it aside.", stops: true },
  locked: {
    short: "needs a password",
    what: "The file is locked with a password, so its pages cannot be shown.",
    next: "Enter its password, ask the sender for an unlocked copy, or file it as it is.",
    stops: true,
  },
  broken: {
    short: "damaged",
    what: "The file is damaged and could not be opened.",
    next: "Download the original, ask for a new copy, or file it as it is.",
    stops: true,
  },
  mislabelled: {
    short: "wrong file extension",
    what: "The content does not match the file extension. It was read by its content.",
    next: "It will be filed with the correct extension.",
    stops: false,
  },
  "type-not-allowed": {
    short: "file type not allowed",
    what: "Files of this type are not accepted.",
    next: "Set it aside, or ask an administrator to allow the type.",
    stops: true,
  },
  "too-many-pages": {
    short: "too many pages",
    what: "The document has more pages than allowed.",
    next: "Open it on the bench and split it there.",
    stops: true,
  },
  "too-slow": {
    short: "took too long",
    what: "Reading was stopped because it took too long.",
    next: "Try again, or file it as it is.",
    stops: true,
  },
  "not-readable": {
    short: "cannot be shown",
    what: "Files of this type cannot be shown here.",
    next: "Download it to view it. It can be filed as it is.",
    stops: false,
  },
  truncated: {
    short: "partly shown",
    what: "The file is very long; only the first part is shown and searched.",
    next: "The whole file is kept and filed.",
    stops: false,
  },
  "reader-missing": {
    short: "reader missing",
    what: "The software that opens this file type is not installed.",
    next: "Ask an administrator, then try again.",
    stops: true,
  },
} as const satisfies Record<ProblemCode, ProblemWords>;
