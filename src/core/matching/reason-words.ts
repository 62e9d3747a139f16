import type { EvidenceKind } from "./match-weights.ts";
import type { Clash, Reason } from "./match-types.ts";

/** What each reason says on its chip; `{about}` is what of the record it is about. One table, so that nobody words them twice. */
export const reasonWords = {
  said: "named on arrival",
  code: "barcode says {about}",
  thread: "replies to a mail filed there",
  ownNumber: "document number",
  orderNamed: "order number",
  keyNamed: "number on the page",
  keyInName: "number in the file name",
  keyLike: "number, perhaps misread",
  digitsNamed: "order number",
  keyNear: "similar number",
  numberNamed: "same document number",
  referenceNamed: "same reference",
  orderOfIt: "belongs to that order",
  titleNamed: "names {about}",
  accountNamed: "account number",
  senderIban: "same IBAN",
  senderVat: "same VAT number",
  senderMail: "same mail address",
  senderName: "same name",
  otherSender: "from a different account",
  subjectNamed: "number in the subject",
  totalFits: "total matches",
  netFits: "net matches",
  amountOff: "total differs, {about}",
  amountFar: "total differs a lot, {about}",
  vesselNamed: "names {about}",
  routeNamed: "names the route",
  dayFits: "same day",
  usualRecord: "usual for this type",
  oddRecord: "unusual for this type",
  closed: "it is {about}",
  companyFits: "addressed to this company",
  otherCompany: "addressed to the other company",
  recent: "recent",
  old: "an old one",
  base: "",
} as const satisfies Record<EvidenceKind, string>;

/** Reasons too faint to be shown: they weigh, but nobody decides by them. */
const faint: ReadonlySet<EvidenceKind> = new Set(["base", "usualRecord", "recent", "companyFits"]);

/** The words of a reason; null for one that is not shown. */
export function wordsOfReason(reason: Reason): string | null {
  // Kept by a newer or older version of the program, a kind may be unknown here.
  const words: string | undefined = reasonWords[reason.kind];
  return words === undefined || faint.has(reason.kind) ? null : words.replace("{about}", reason.about);
}

/** What a clash says, and what to do. */
export const clashWords = {
  "other-sender": "The document is from a different account than this record.",
  "other-company": "The document is addressed to the other company.",
  closed: "This record is {detail}.",
  "amount-far": "The record says {detail}; the document says something else.",
  "iban-differs":
    "The document names the bank account {detail}. It differs from the one on this account: confirm by telephone before paying.",
  double: "{detail} has the same number and sender: possibly a duplicate.",
  "several-papers": "It looks like several documents: split it on the bench first.",
  alike: "{detail} is equally likely: compare the two.",
} as const satisfies Record<Clash, string>;

/** The words of a clash. */
export function wordsOfClash(clash: { readonly code: Clash; readonly detail: string }): string {
  const words: string | undefined = clashWords[clash.code];
  return words?.replace("{detail}", clash.detail) ?? clash.code;
}

/** What a sure suggestion, and one that is not, says in a list. */
export function verdictOf(
  suggestion: { readonly certainty: number; readonly clashes: readonly { readonly code: Clash }[] } | undefined,
  sureFrom: number,
): "sure" | "likely" | "alike" | "warning" | "none" {
  if (!suggestion || suggestion.certainty < 0.35) return suggestion?.clashes.some((c) => c.code === "alike") ? "alike" : "none";
  if (suggestion.clashes.some((c) => c.code === "iban-differs")) return "warning";
  if (suggestion.clashes.some((c) => c.code === "alike")) return "alike";
  return suggestion.certainty >= sureFrom && suggestion.clashes.length === 0 ? "sure" : "likely";
}
