import type { Word } from "./page-text.ts";

/** Fewer words than this may be a page number that a scanner's driver printed over a picture. */
const WORDS_MIN = 5;
/** A text layer with more of its characters from nowhere was made by a broken font: it reads as nonsense. */
const ODD_SHARE = 0.25;

/**
 * Whether a page's own text layer can be used as it is, or its picture has to be read: too few words, or characters that are none (private
 * use, replacement). A page without ink needs neither.
 */
export function hasUsableText(words: readonly Word[]): boolean {
  if (words.length < WORDS_MIN) return false;
  let all = 0;
  let odd = 0;
  for (const word of words)
    for (const character of word.text) {
      all++;
      const point = character.codePointAt(0) ?? 0;
      if (point === 0xfffd || point < 0x20 || (point >= 0xe000 && point <= 0xf8ff)) odd++;
    }
  return odd / Math.max(1, all) < ODD_SHARE;
}
