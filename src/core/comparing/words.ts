import type { DeliveryCompared, DeliveredLine } from "./compare-delivery.ts";
import type { Finding, FindingCode, InvoiceCompared } from "./compare-invoice.ts";
import type { StatedState, StatementCompared } from "./compare-statement.ts";

/** What comparing can give. */
export type Compared = InvoiceCompared | StatementCompared | DeliveryCompared;

/** What each finding says; {what}, {document}, {record} are its own, {currency} that of the document. */
export const findingWords = {
  "quantity-over-order": "{what}: {document} invoiced, {record} ordered",
  "quantity-over-received": "{what}: {document} invoiced, {record} received",
  "price-over": "{what}: {document} each, {record} was ordered",
  "price-under": "{what}: {document} each, {record} was ordered",
  "not-ordered": "Not on the order: {what}",
  "total-over": "{currency} {what} more than ordered",
  "total-under": "{currency} {what} less than ordered",
  "invoiced-over-order": "With earlier invoices {currency} {what} more than ordered",
  "nothing-received": "Nothing of {what} was received yet",
  "other-currency": "In {document}; the order is in {record}",
  "same-invoice": "{what} is the same invoice",
  "within-tolerance": "{currency} {what} difference, within tolerance",
} as const satisfies Record<FindingCode, string>;

/** The words of one finding. */
export function wordsOfFinding(finding: Finding, currency: string | null): string {
  const words: string = findingWords[finding.code];
  // A sum, where its currency stands before it; elsewhere a thing, which may be a number that is none to be counted with.
  const what = words.includes("{currency} {what}") ? grouped(finding.what) : shortened(finding.what);
  return words
    .replace("{what}", what)
    .replace("{document}", grouped(finding.paper ?? ""))
    .replace("{record}", grouped(finding.record ?? ""))
    .replace("{currency} ", currency === null ? "" : `${currency} `);
}

/** A number with its thousands apart, "4,862.50"; anything else as it is. */
const grouped = (text: string): string =>
  /^-?\d+(\.\d+)?$/.test(text) ? text.replace(/^-?\d+/, (whole) => Number(whole).toLocaleString("en-GB")) : text;

/** What the states of a statement's invoices say. */
export const statedWords = {
  paid: "paid",
  "on-file": "filed",
  waiting: "waiting in Arrivals",
  "other-amount": "different amount",
  missing: "missing",
} as const satisfies Record<StatedState, string>;

/** What the states of delivered lines say. */
export const deliveredWords = {
  same: "as ordered",
  within: "within tolerance",
  short: "short",
  over: "more than ordered",
  missing: "not on the document",
  unordered: "not ordered",
} as const satisfies Record<DeliveredLine["state"], string>;

/** Which findings are told first, if not all fit. */
const gravest: readonly FindingCode[] = [
  "same-invoice",
  "other-currency",
  "invoiced-over-order",
  "total-over",
  "price-over",
  "quantity-over-order",
  "quantity-over-received",
  "not-ordered",
  "nothing-received",
  "price-under",
  "total-under",
  "within-tolerance",
];

/** What came of comparing in one short sentence, and whether it is good news. `record` is the key of what the document was laid beside. */
export function sentenceOf(
  compared: Compared,
  record: string,
  currency: string | null,
): { readonly text: string; readonly tone: "good" | "look" | "wrong" | "plain" } {
  switch (compared.kind) {
    case "invoice": {
      const [first, ...rest] = [...compared.findings].sort((a, b) => gravest.indexOf(a.code) - gravest.indexOf(b.code));
      if (compared.verdict === "cannot-tell") return { text: `Nothing to compare on ${record}`, tone: "plain" };
      const counted = compared.lines.filter((l) => l.paper !== null).length;
      const whole = compared.lines.some((l) => l.state === "missing")
        ? `, ${counted} of ${compared.lines.length} lines`
        : counted > 0
          ? `, ${counted === 1 ? "one line" : `all ${counted} lines`}`
          : "";
      if (!first) return { text: `Matches ${record}${whole}`, tone: "good" };
      // A sum that is off, with the line that it comes from.
      const because = first.line === null ? rest.find((f) => f.line !== null) : undefined;
      const more = rest.filter((f) => f.code !== "within-tolerance" && f !== because).length;
      const text =
        wordsOfFinding(first, currency) +
        (because ? `. ${wordsOfFinding(because, currency)}` : "") +
        (more > 0 ? `, and ${more === 1 ? "one more difference" : `${more} more differences`}` : "");
      return compared.verdict === "within" ? { text: `Matches ${record}: ${text}`, tone: "good" } : { text, tone: "wrong" };
    }
    case "statement": {
      if (compared.verdict === "cannot-tell") return { text: "No invoice list could be read", tone: "plain" };
      const said = (["missing", "other-amount", "paid", "waiting", "on-file"] as const).flatMap((s) =>
        compared.counts[s] > 0
          ? [`${compared.counts[s]} ${s === "other-amount" ? "with a different amount" : s === "waiting" ? "waiting" : statedWords[s]}`]
          : [],
      );
      const all = compared.lines.length === 1 ? "One invoice" : `${compared.lines.length} invoices`;
      const sum =
        compared.stated !== null && Math.abs(Number(compared.sum) - Number(compared.stated)) >= 0.005
          ? "; they do not add up to its balance"
          : "";
      return {
        text: `${all}: ${said.join(", ")}${sum}`,
        tone:
          compared.counts.missing + compared.counts["other-amount"] > 0 || sum !== ""
            ? "wrong"
            : compared.counts.paid > 0
              ? "look"
              : "good",
      };
    }
    case "delivery": {
      if (compared.verdict === "cannot-tell") return { text: `Nothing to compare on ${record}`, tone: "plain" };
      const odd = compared.lines.filter((l) => l.state !== "same" && l.state !== "within");
      const field = compared.fields.find((f) => !f.isSame);
      const [first] = odd;
      if (first) {
        const what = shortened(first.text);
        const text =
          first.state === "short" || first.state === "over"
            ? `${what}: ${first.delivered} of ${first.ordered}`
            : first.state === "missing"
              ? `${what} is not on the document`
              : `Not on the order: ${what}`;
        return {
          text:
            text + (odd.length > 1 ? `, and ${odd.length - 1 === 1 ? "one more difference" : `${odd.length - 1} more differences`}` : ""),
          tone: "wrong",
        };
      }
      if (field) return { text: `${field.field}: ${field.paper} on the document, ${field.record} on ${record}`, tone: "wrong" };
      const counted = compared.lines.length;
      return {
        text: counted > 0 ? `As ordered on ${record}, ${counted === 1 ? "one line" : `all ${counted} lines`}` : `Matches ${record}`,
        tone: "good",
      };
    }
  }
}

const shortened = (text: string): string => (text.length > 46 ? `${text.slice(0, 44).trimEnd()}…` : text);
