import type { Reason, Suggestion } from "./match-types.ts";
import { wordsOfReason } from "./reason-words.ts";

/** Reasons named on either side: more is not read. */
const NAMED = 3;

/** What tells one suggestion from another, in the words of their reasons. */
export interface Apart {
  /** What only the one has, the weightiest first. */
  readonly own: readonly string[];
  /** What only the other has. */
  readonly others: readonly string[];
}

/**
 * How a suggestion differs from another one of the same document: reasons that only one of them has, for or against it. Nothing is said that is not a reason of
 * theirs (promise 8); what both have in the same words tells nothing apart.
 */
export function tellApart(one: Pick<Suggestion, "reasons">, other: Pick<Suggestion, "reasons">): Apart {
  return { own: onlyIn(one.reasons, other.reasons), others: onlyIn(other.reasons, one.reasons) };
}

function onlyIn(here: readonly Reason[], there: readonly Reason[]): readonly string[] {
  const known = new Set(there.map(wordsOfReason));
  const words = here
    .toSorted((a, b) => Math.abs(b.weight) - Math.abs(a.weight))
    .map(wordsOfReason)
    .filter((w) => w !== null && !known.has(w));
  return [...new Set(words)].filter((w) => w !== null).slice(0, NAMED);
}
