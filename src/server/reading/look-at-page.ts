import type { ContentKind } from "#core/arrivals/limits.ts";
import type { PageCode } from "#core/codes/page-code.ts";
import { findSlant, slantOf } from "#core/pages/find-skew.ts";
import { BLANK_INK, inkSquares, measureInk, pagePrint } from "#core/pages/measure-page.ts";
import type { Word } from "#core/pages/page-text.ts";
import type { Quarter } from "#core/pages/turn-box.ts";
import { hasUsableText } from "#core/pages/usable-text.ts";
import { pageRaster } from "./page-raster.ts";
import { readCodes } from "./read-codes.ts";
import { readWords } from "./read-words.ts";

/** A page to look at: its place in its file, its size, and the words of its own text layer. */
export interface PageToLookAt {
  readonly number: number;
  readonly widthPoints: number;
  readonly heightPoints: number;
  readonly words: readonly Word[];
}

/** What looking at a page's picture brought. Boxes in points from the top left of the page as displayed. */
export interface PageLook {
  readonly words: readonly Word[];
  readonly wordsFrom: "layer" | "picture" | "none";
  readonly ink: number | null;
  readonly codes: readonly PageCode[];
  readonly turn: Quarter;
  readonly slant: number | null;
  readonly print: bigint | null;
}

/**
 * Looks at one page: draws it, reads its barcodes, measures its ink, and reads its words where its text layer has none that can be used. A page
 * that cannot be drawn keeps the words it has. Throws AppError `reader-missing` when a program it needs is not installed.
 */
export async function lookAtPage(file: string, kind: ContentKind, page: PageToLookAt): Promise<PageLook> {
  const enough = hasUsableText(page.words);
  const drawn = await pageRaster(file, kind, page);
  if (!drawn.ok)
    return {
      words: page.words,
      wordsFrom: page.words.length > 0 ? "layer" : "none",
      ink: null,
      codes: [],
      turn: 0,
      slant: null,
      print: null,
    };
  const grey = drawn.value;
  const scale = page.widthPoints / grey.width;
  const inPoints = (box: readonly number[]): readonly [number, number, number, number] => {
    const [x = 0, y = 0, width = 0, height = 0] = box.map((n) => Math.round(n * scale * 100) / 100);
    return [x, y, width, height];
  };
  const squares = inkSquares(grey);
  const ink = measureInk(squares);
  // A page with a few words and nothing else needs no reading: its words are all there is on it.
  const inDots = page.words.map(({ box }) => [box[0] / scale, box[1] / scale, box[2] / scale, box[3] / scale] as const);
  const usable = enough || (page.words.length > 0 && measureInk(squares, inDots) < BLANK_INK);
  const print = pagePrint(grey);
  const slant = usable ? slantOf(findSlant(grey)) : null;
  // The dots go to the thread as a copy: they are read here meanwhile.
  const found = await readCodes(grey);
  const codes = found.map((c) => ({ format: c.format, text: c.text, box: inPoints(c.box) }));
  // Nor does one with a barcode and nothing else, such as a sheet that only separates: reading it takes seconds and finds nothing.
  const nothingElse = codes.length > 0 && measureInk(squares, [...inDots, ...found.map((c) => c.box)]) < BLANK_INK;
  if (usable || nothingElse || ink < BLANK_INK)
    return { words: page.words, wordsFrom: page.words.length > 0 ? "layer" : "none", ink, codes, turn: 0, slant, print };
  const read = await readWords(grey);
  const words = read.words.map((w) => ({ text: w.text, box: inPoints(w.box) }));
  // Few words of the layer's own are better than none off the picture.
  if (words.length === 0 && page.words.length > 0)
    return { words: page.words, wordsFrom: "layer", ink, codes, turn: 0, slant: read.slant, print };
  return { words, wordsFrom: words.length > 0 ? "picture" : "none", ink, codes, turn: read.turn, slant: read.slant, print };
}
