import { foldReference, foldText } from "../shared/fold-text.ts";
import type { FindQuery } from "./parse-find.ts";

/** A piece of a snippet; hits are shown marked. */
export interface SnippetPart {
  readonly text: string;
  readonly hit: boolean;
}

/** Characters of body that are looked through for a snippet: later hits are found, but not shown. */
const LOOK_THROUGH = 60_000;

/**
 * A short piece of a text around its first hits, cut at words. Hits are exact pieces of the text. Linear in the text.
 * When nothing matches in the part looked through, the beginning is given.
 */
export function makeSnippet(
  body: string,
  query: FindQuery,
  lengthMax = 180,
): { readonly parts: readonly SnippetPart[]; readonly hits: number } {
  const wanted = query.terms.filter((t) => !t.not);
  const isHit = (word: string): boolean => {
    const folded = foldText(word);
    const reference = foldReference(word);
    const pieces = folded.split(/[^\p{L}\p{N}]+/u);
    return wanted.some(
      (t) =>
        (t.reference !== null &&
          (reference === t.reference || reference.replace(/^0+/, "") === t.reference || (t.prefix && reference.startsWith(t.reference)))) ||
        t.words.some((w, i) => pieces.some((p) => p === w || (t.prefix && i === t.words.length - 1 && p.startsWith(w)))),
    );
  };
  const words = [...body.slice(0, LOOK_THROUGH).matchAll(/\S+/gu)].map((m) => ({ text: m[0], at: m.index, hit: isHit(m[0]) }));
  const hits = words.filter((w) => w.hit).length;
  const first = Math.max(
    0,
    words.findIndex((w) => w.hit),
  );
  let from = first;
  while (from > 0 && (words[first]?.at ?? 0) - (words[from - 1]?.at ?? 0) < lengthMax / 4) from--;
  const parts: SnippetPart[] = [];
  let length = 0;
  let to = from;
  for (; to < words.length; to++) {
    const word = words[to];
    if (!word || length + word.text.length > lengthMax) break;
    const before = parts.at(-1);
    const gap = to === from ? "" : " ";
    if (before && before.hit === word.hit && !word.hit) parts[parts.length - 1] = { text: before.text + gap + word.text, hit: false };
    else {
      if (gap !== "" && before) parts.push({ text: gap, hit: false });
      parts.push({ text: word.text, hit: word.hit });
    }
    length += word.text.length + 1;
  }
  if (from > 0) parts.unshift({ text: "… ", hit: false });
  if (to < words.length) parts.push({ text: " …", hit: false });
  return { parts, hits };
}
