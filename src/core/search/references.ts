import { foldReference } from "../shared/fold-text.ts";

/** References longer than this are noise (hashes, encoded data). */
const REFERENCE_MAX = 40;

/**
 * The references in a text: pieces with a digit in them, such as B-20418 or 77/3108, folded. Text search cuts them apart,
 * so they are indexed as lexemes of their own: without punctuation, and also without leading zeros. Linear; each once.
 */
export function referencesIn(text: string, most = 4000): readonly string[] {
  const found = new Set<string>();
  for (const piece of text.split(/[\s,;()[\]{}"'<>|]+/u)) {
    if (piece.length < 3 || piece.length > REFERENCE_MAX || !/\d/.test(piece)) continue;
    const folded = foldReference(piece);
    if (folded.length < 3) continue;
    found.add(folded);
    const bare = folded.replace(/^0+/, "");
    if (bare.length >= 3) found.add(bare);
    if (found.size >= most) break;
  }
  return [...found];
}
