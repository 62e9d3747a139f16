import { foldText } from "../shared/fold-text.ts";
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
