import { foldReference, foldText } from "../shared/fold-text.ts";

/** A look-up as typed, taken apart. Rule: docs/rules.md#look-up */
export interface Lookup {
  /** The whole input folded; empty when nothing was typed (then the recent ones are wanted). */
  readonly folded: string;
  /** The whole input as a reference, without punctuation; for keys. */
  readonly reference: string;
  /** LIKE patterns, one for each word; every one must be met somewhere in the record. */
  readonly patterns: readonly string[];
  /** The words without wildcards, for typing errors; only those long enough to be judged. */
  readonly words: readonly string[];
  readonly hasWildcard: boolean;
  /** With wildcards: what stands between the stars, as references, for keys: PO-61*7 is po61 and 7. Empty without. */
  readonly keyPieces: readonly string[];
}

/** Words beyond this count add nothing but time. */
const WORDS_MAX = 8;
/** Characters taken of what was typed. */
export const LOOKUP_MAX = 120;

/** Takes a look-up apart. `*` stands for any characters. Never fails; characters special to LIKE are taken as themselves. */
export function parseLookup(typed: string): Lookup {
  const text = foldText(typed.slice(0, LOOKUP_MAX));
  const tokens = text
    .split(" ")
    .filter((t) => t.replace(/\*/g, "") !== "")
    .slice(0, WORDS_MAX);
  return {
    folded: tokens.join(" "),
    reference: foldReference(text),
    patterns: tokens.map((t) => `%${likeText(t)}%`),
    words: tokens.filter((t) => !t.includes("*") && t.length >= 4),
    hasWildcard: tokens.some((t) => t.includes("*")),
    keyPieces: text.includes("*") ? text.split("*").map(foldReference) : [],
  };
}

/** Whether a folded key is these pieces with anything between them: the first at its beginning, the last at its end. Linear. */
export function matchesPieces(key: string, pieces: readonly string[]): boolean {
  const [first = "", ...rest] = pieces;
  const last = rest.pop() ?? "";
  if (!key.startsWith(first)) return false;
  let at = first.length;
  for (const piece of rest) {
    const found = key.indexOf(piece, at);
    if (found === -1) return false;
    at = found + piece.length;
  }
  return key.length - last.length >= at && key.endsWith(last);
}

function likeText(token: string): string {
  return token.replace(/[\\%_]/g, (c) => `\\${c}`).replace(/\*+/g, "%");
}
