import { foldReference, foldText } from "../shared/fold-text.ts";

/** What was asked of Find: words that must all be there, phrases, and words that must not. */
export interface FindQuery {
  readonly terms: readonly FindTerm[];
}
export interface FindTerm {
  /** The folded words: one, or several that must follow each other. */
  readonly words: readonly string[];
  /** The same as a reference, when it has a digit in it; else null. */
  readonly reference: string | null;
  readonly prefix: boolean;
  readonly not: boolean;
}

/** Most terms that are looked at; more add nothing but time. */
const TERMS_MAX = 12;
export const FIND_MAX = 300;

/**
 * Takes a search apart: words, "phrases in quotes", -without, and begin* for words that begin so.
 * Never fails; empty when there is nothing to look for.
 */
export function parseFind(typed: string): FindQuery {
  const terms: FindTerm[] = [];
  const text = typed.slice(0, FIND_MAX).replace(/[“”„]/g, '"');
  for (const match of text.matchAll(/(-?)(?:"([^"]*)"|(\S+))/gu)) {
    const phrase = match[2];
    const raw = phrase ?? match[3] ?? "";
    const prefix = phrase === undefined && raw.endsWith("*");
    const words = wordsOf(raw);
    if (words.length === 0) continue;
    terms.push({
      words,
      reference: phrase === undefined && /\d/.test(raw) && foldReference(raw).length >= 3 ? foldReference(raw) : null,
      prefix,
      not: match[1] === "-",
    });
    if (terms.length >= TERMS_MAX) break;
  }
  return { terms };
}

/** The words of a text as Find compares them: folded, cut at everything that is neither letter nor digit. */
export function wordsOf(text: string): readonly string[] {
  return foldText(text)
    .split(/[^\p{L}\p{N}]+/u)
    .filter((w) => w !== "");
}

/**
 * The query in PostgreSQL's tsquery text form, for `to_tsquery('simple', …)`: only letters, digits and our own operators, so
 * nothing typed can break out. Empty string when nothing positive is asked.
 */
export function tsqueryOf(query: FindQuery): string {
  const positive = query.terms.filter((t) => !t.not);
  if (positive.length === 0) return "";
  return query.terms
    .map((t) => {
      const last = t.words.length - 1;
      const words = t.words.map((w, i) => (t.prefix && i === last ? `${w}:*` : w));
      const run = words.length === 1 ? (words[0] ?? "") : `(${words.join(" <-> ")})`;
      const either =
        t.reference === null || (t.reference === t.words[0] && words.length === 1)
          ? run
          : `(${run} | ${t.reference}${t.prefix ? ":*" : ""})`;
      return t.not ? `!${either}` : either;
    })
    .join(" & ");
}
