import { foldText } from "../shared/fold-text.ts";

/** Least hashes kept of a text. */
const LEAST = 64;
/** Of these, so many make a group; two texts that share a whole group are compared. */
const GROUP = 4;
/** Words that are looked at of one text: a longer one is told by its beginning. */
const WORDS_MAX = 20_000;
/** A text with fewer words says too little to be told from others. */
export const WORDS_MIN = 12;

/** What a text says, as numbers (MinHash over its word triples, see A. Broder, 1997). All are signed 32-bit, the hash of the whole is two of them. */
export interface TextFingerprint {
  readonly whole: bigint;
  readonly least: readonly number[];
  readonly bands: readonly number[];
}

/** The words that count: folded, without punctuation around them. */
export function countedWords(text: string): readonly string[] {
  const words: string[] = [];
  for (const word of foldText(text).split(/\s+/)) {
    const bare = word.replace(/^[^\p{L}\p{N}]+|[^\p{L}\p{N}]+$/gu, "");
    if (bare !== "") words.push(bare);
    if (words.length >= WORDS_MAX) break;
  }
  return words;
}

/** The print of a text; null when it has too few words. The same words give the same print, whatever their spacing, lines and case. */
export function fingerprintOfText(text: string): TextFingerprint | null {
  const words = countedWords(text);
  if (words.length < WORDS_MIN) return null;
  const least = new Int32Array(LEAST).fill(0x7fffffff);
  for (let i = 0; i + 2 < words.length; i++) {
    const base = hash(`${words[i]} ${words[i + 1]} ${words[i + 2]}`, 0x811c9dc5);
    for (let n = 0; n < LEAST; n++) {
      const mixed = mix(base ^ Math.imul(n + 1, 0x9e3779b1));
      if (mixed < (least[n] ?? 0)) least[n] = mixed;
    }
  }
  const bands: number[] = [];
  for (let at = 0; at < LEAST; at += GROUP) bands.push(hash(least.slice(at, at + GROUP).join(","), at + 1));
  const all = words.join(" ");
  const whole = (BigInt(hash(all, 17)) << 32n) | BigInt(hash(all, 40_503) >>> 0);
  return { whole: BigInt.asIntN(64, whole), least: [...least], bands };
}

/** How alike two texts are by their prints, 0 to 1: an estimate of the share of word triples they have in common. */
export function likeness(a: readonly number[], b: readonly number[]): number {
  let same = 0;
  for (let i = 0; i < LEAST; i++) if (a[i] === b[i]) same++;
  return same / LEAST;
}

/** How many of 64 bits differ. */
export function bitsApart(a: bigint, b: bigint): number {
  let left = BigInt.asUintN(64, a ^ b);
  let count = 0;
  while (left !== 0n) {
    left &= left - 1n;
    count++;
  }
  return count;
}

/** FNV-1a, then mixed: 32 bits, signed. */
function hash(text: string, seed: number): number {
  let h = seed | 0;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return mix(h);
}

function mix(h: number): number {
  let x = h | 0;
  x = Math.imul(x ^ (x >>> 16), 0x85ebca6b);
  x = Math.imul(x ^ (x >>> 13), 0xc2b2ae35);
  return x ^ (x >>> 16);
}

/** So many of a picture's 64 bits may differ in the same picture saved again. */
export const PICTURE_BITS = 3;

/** Groups of a picture's bits: two that differ in at most three bits share one of the four. Told apart from each other and from those of texts. */
export function bandsOfPicture(print: bigint): readonly number[] {
  return [0, 1, 2, 3].map((n) => hash(`${n} ${BigInt.asUintN(16, print >> BigInt(n * 16))}`, 0x51ed270b));
}
