import { parseFind } from "../search/parse-find.ts";
import { foldReference, foldText } from "../shared/fold-text.ts";
import type { Word } from "./page-text.ts";

/**
 * Where a searched text stands on a page: one box for each hit. A hit may span words; it is folded (case, accents), and blanks count
 * as the gap between two words. Linear in the page times the length of what is searched.
 */
export function findInWords(words: readonly Word[], wanted: string): readonly (readonly [number, number, number, number])[] {
  const parts = foldText(wanted)
    .split(" ")
    .filter((p) => p !== "");
  if (parts.length === 0) return [];
  const folded = words.map((w) => foldText(w.text));
  const hits: (readonly [number, number, number, number])[] = [];
  for (let i = 0; i + parts.length <= words.length; i++) {
    const fits = parts.every((part, k) => {
      const word = folded[i + k] ?? "";
      if (parts.length === 1) return word.includes(part);
      if (k === 0) return word.endsWith(part);
      return k === parts.length - 1 ? word.startsWith(part) : word === part;
    });
    if (!fits) continue;
    const boxes = words.slice(i, i + parts.length).map((w) => w.box);
    const left = Math.min(...boxes.map((b) => b[0]));
    const top = Math.min(...boxes.map((b) => b[1]));
    hits.push([left, top, Math.max(...boxes.map((b) => b[0] + b[2])) - left, Math.max(...boxes.map((b) => b[1] + b[3])) - top]);
  }
  return hits;
}

/**
 * Where the words of a search over all documents stand on a page: every term that must be there, a phrase as a whole, a prefix by its beginning. A term that
 * is a number is also found in another spelling (77/3108 for 77-3108). Boxes in reading order, each place once.
 */
export function findTermsInWords(words: readonly Word[], query: string): readonly (readonly [number, number, number, number])[] {
  const terms = parseFind(query).terms.filter((t) => !t.not);
  const found = new Map<string, readonly [number, number, number, number]>();
  for (const term of terms) {
    for (const box of findInWords(words, term.words.join(" "))) found.set(box.join(), box);
    if (term.reference === null) continue;
    for (const word of words) if (foldReference(word.text) === term.reference) found.set(word.box.join(), word.box);
  }
  return [...found.values()].toSorted((a, b) => a[1] - b[1] || a[0] - b[0]);
}
