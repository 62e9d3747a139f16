import { foldReference, foldText } from "../shared/fold-text.ts";
import { type Lookup, matchesPieces } from "./parse-lookup.ts";

/** What ranking looks at in a candidate. */
export interface LookupCandidate {
  readonly key: string;
  readonly title: string;
  /** Order of recency among the candidates: 0 is the one used last. */
  readonly recency: number;
  /** Whether it is a standing record: a name that is typed means the account before anything that bears its name. */
  readonly isStanding: boolean;
}

/**
 * Orders look-up hits: the key itself, its number alone or a key that fits the stars, keys that begin so, keys that hold it, standing records
 * whose title begins so, then others, titles with a word that begins so, anything else; among equals the one used last. Stable and deterministic.
 */
export function rankLookup<T extends LookupCandidate>(lookup: Lookup, candidates: readonly T[]): readonly T[] {
  const grade = (c: T): number => {
    const key = foldReference(c.key);
    const title = foldText(c.title);
    if (lookup.reference !== "" && !lookup.hasWildcard) {
      if (key === lookup.reference) return 0;
      // People type the number and leave out what every key of the type begins with: 6127 for PO-6127.
      if (key.replace(/^[a-z]+/, "") === lookup.reference) return 1;
      if (key.startsWith(lookup.reference)) return 2;
      if (/\d/.test(lookup.reference) && key.includes(lookup.reference)) return 3;
    }
    if (lookup.keyPieces.some((p) => p !== "") && matchesPieces(key, lookup.keyPieces)) return 1;
    if (lookup.folded !== "" && title.startsWith(lookup.folded)) return c.isStanding ? 4 : 5;
    if (lookup.folded !== "" && title.split(" ").some((word) => word.startsWith(lookup.folded.split(" ")[0] ?? ""))) return 6;
    return 7;
  };
  return candidates
    .map((c) => ({ c, g: grade(c) }))
    .sort((a, b) => a.g - b.g || a.c.recency - b.c.recency || (a.c.key < b.c.key ? -1 : 1))
    .map(({ c }) => c);
}
