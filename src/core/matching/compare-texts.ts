import { countedWords } from "./text-fingerprint.ts";

/** What stands in one text and not in the other, each word once, in order. */
export interface TextDifference {
  readonly onlyHere: readonly string[];
  readonly onlyThere: readonly string[];
}

/** Words shown of each side. */
const SHOWN = 24;

/** What differs between two texts, by their words: what a person looks at to tell a copy from the next invoice. Linear. */
export function compareTexts(here: string, there: string): TextDifference {
  const [mine, theirs] = [countedWords(here), countedWords(there)];
  const only = (words: readonly string[], others: readonly string[]): readonly string[] => {
    const counts = new Map<string, number>();
    for (const word of others) counts.set(word, (counts.get(word) ?? 0) + 1);
    const left: string[] = [];
    for (const word of words) {
      const n = counts.get(word) ?? 0;
      if (n > 0) counts.set(word, n - 1);
      else if (!left.includes(word) && left.length < SHOWN) left.push(word);
    }
    return left;
  };
  return { onlyHere: only(mine, theirs), onlyThere: only(theirs, mine) };
}
