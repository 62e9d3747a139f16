import type { Word } from "../pages/page-text.ts";
import { cellsOfTable, pageOfTable, pageOfText, type Sheet, type TextWord, wordsOfText } from "../pages/text-page.ts";
import { addTurns, type Quarter, turnBox } from "../pages/turn-box.ts";

export type Box = Word["box"];

/** Words of one line that stand close together: a label, a value, a cell of a table. */
export interface Phrase {
  readonly text: string;
  readonly words: readonly Word[];
  readonly box: Box;
  /** Index of its line on the page. */
  readonly line: number;
}

/** A page as reading sees it: lines of phrases, from the top. */
export interface ReadPage {
  readonly number: number;
  readonly width: number;
  readonly height: number;
  readonly lines: readonly (readonly Phrase[])[];
  /** Usual height of its letters, points. */
  readonly letter: number;
  /** False for what was typed without a page: running text, a mail, a table. */
  readonly isDrawn: boolean;
  /** Whether it is shown as it is read, so that what is read off it can be pointed at. */
  readonly isShown: boolean;
  /** Whether its words were read off a picture, with the mistakes that come of it. */
  readonly fromPicture: boolean;
  /** How its words were turned to stand upright, and the size of the page before; null when they were not. */
  readonly turned: Turned | null;
}
export interface Turned {
  readonly by: Quarter;
  readonly width: number;
  readonly height: number;
}

/** A box of an upright page, on the page as its words are kept. */
export function keptBox(page: Pick<ReadPage, "turned" | "width" | "height">, box: Box): Box {
  if (!page.turned) return box;
  const [x, y, width, height] = turnBox(box, addTurns(0, -page.turned.by), page.width, page.height);
  return [x, y, width, height];
}

/** Words with a wider gap between them, in heights of a font, belong to different phrases. */
const GAP = 0.95;
/** Words read off pictures have boxes that are tight around the letters: a capital is about two thirds of its font's height. */
const FONT_OF_CAPITAL = 1.45;
/** Words looked at of one page; a page with more is a table of thousands of rows. */
const WORDS_MAX = 6000;

/** The smallest box around boxes; throws for none. */
export function boxAround(boxes: readonly Box[]): Box {
  if (boxes.length === 0) throw new RangeError("no box");
  const left = Math.min(...boxes.map((b) => b[0]));
  const top = Math.min(...boxes.map((b) => b[1]));
  const round = (n: number): number => Math.round(n * 100) / 100;
  return [
    round(left),
    round(top),
    round(Math.max(...boxes.map((b) => b[0] + b[2])) - left),
    round(Math.max(...boxes.map((b) => b[1] + b[3])) - top),
  ];
}

/** Groups a page's words to lines and phrases by where they stand, whatever order they came in. Same words, same lines. */
export function linesOfPage(page: {
  readonly number: number;
  readonly widthPoints: number;
  readonly heightPoints: number;
  readonly words: readonly Word[];
  readonly fromPicture?: boolean;
  /** Degrees that its lines run down to the right, on a picture that was laid in crooked. */
  readonly slant?: number;
  readonly turned?: Turned;
}): ReadPage {
  const words = page.words
    .slice(0, WORDS_MAX)
    .filter((w) => w.text.trim() !== "" && w.box[3] > 0)
    .flatMap(partedLabel);
  const heights = words.map((w) => w.box[3]).sort((a, b) => a - b);
  const isTight = page.fromPicture ?? false;
  // The usual height; of tight boxes that of the words with capitals and figures.
  const letter = heights[Math.floor(heights.length * (isTight ? 0.75 : 0.5))] ?? 10;
  const fall = Math.tan(((page.slant ?? 0) * Math.PI) / 180);
  const middleOf = (w: Word): number => w.box[1] + w.box[3] / 2 - (w.box[0] + w.box[2] / 2) * fall;
  const rows: { middle: number; words: Word[] }[] = [];
  for (const word of [...words].sort((a, b) => middleOf(a) - middleOf(b) || a.box[0] - b.box[0])) {
    const middle = middleOf(word);
    const row = rows.at(-1);
    // A tight box around a hyphen is a fraction of the line's height.
    if (row && Math.abs(middle - row.middle) <= (isTight ? letter : Math.min(letter, word.box[3])) * 0.5) row.words.push(word);
    else rows.push({ middle, words: [word] });
  }
  const lines = rows.map((row, line) => phrasesOf(row.words, line, isTight ? letter * FONT_OF_CAPITAL : null));
  return {
    number: page.number,
    width: page.widthPoints,
    height: page.heightPoints,
    lines,
    letter,
    isDrawn: true,
    isShown: true,
    fromPicture: page.fromPicture ?? false,
    turned: page.turned ?? null,
  };
}

/** A label that its value was set against without a blank, "Date:18/11/2026" or "No.77-3108", is two words; each keeps its share of the box. */
function partedLabel(word: Word): readonly Word[] {
  const label = /^[(]?[A-Za-zÀ-ÿ/]{1,16}[.:#°º]{1,2}(?=[A-Z£€$]{0,6}[-/ ]?\d)/.exec(word.text)?.[0];
  if (label === undefined || /^(www|http|https|ftp)\b/i.test(label)) return [word];
  const [x, y, width, height] = word.box;
  const share = (width * label.length) / word.text.length;
  return [
    { text: label, box: [x, y, share, height] },
    { text: word.text.slice(label.length), box: [x + share, y, width - share, height] },
  ];
}

function phrasesOf(words: readonly Word[], line: number, font: number | null): readonly Phrase[] {
  const phrases: Phrase[] = [];
  let run: Word[] = [];
  const end = (): void => {
    if (run.length > 0) phrases.push(phraseOf(run, line));
    run = [];
  };
  for (const word of [...words].sort((a, b) => a.box[0] - b.box[0])) {
    const last = run.at(-1);
    if (last && word.box[0] - (last.box[0] + last.box[2]) > GAP * (font ?? Math.max(last.box[3], word.box[3]))) end();
    run.push(word);
  }
  end();
  return phrases;
}

/** A phrase of words that follow each other. */
export function phraseOf(words: readonly Word[], line: number): Phrase {
  return { text: words.map((w) => w.text).join(" "), words, box: boxAround(words.map((w) => w.box)), line };
}

/** Running text as a page of lines. `isShown`: whether it is shown as it stands, so that what is read off it has a place there. */
export function linesOfText(text: string, options: { readonly isShown?: boolean } = {}): ReadPage {
  const { widthPoints, heightPoints } = pageOfText(text);
  const lines = wordsOfText(text).flatMap((words) => {
    const runs: TextWord[][] = [];
    for (const word of words) {
      if (word.isApart) runs.push([word]);
      else runs.at(-1)?.push(word);
    }
    return runs.length > 0 ? [runs] : [];
  });
  return typed(1, widthPoints, heightPoints, lines, options.isShown ?? true);
}

/** A sheet of a table as a page of lines: its name, and each cell as a phrase. `number` is its place among the sheets. */
export function linesOfTable(sheet: Sheet, number: number): ReadPage {
  const { widthPoints, heightPoints } = pageOfTable(sheet, number);
  const rows = new Map<number, (readonly Word[])[]>();
  let words = 0;
  for (const cell of cellsOfTable(sheet.rows)) {
    words += cell.words.length;
    if (words > WORDS_MAX) break;
    rows.set(cell.row, [...(rows.get(cell.row) ?? []), cell.words]);
  }
  const name = wordsOfText(sheet.name).flat();
  return typed(number, widthPoints, heightPoints, [...(name.length > 0 ? [[name]] : []), ...rows.values()], true);
}

function typed(
  number: number,
  width: number,
  height: number,
  lines: readonly (readonly (readonly Word[])[])[],
  isShown: boolean,
): ReadPage {
  return {
    number,
    width,
    height,
    lines: lines.map((phrases, line) => phrases.map((words) => phraseOf(words, line))),
    letter: 10,
    isDrawn: false,
    isShown,
    fromPicture: false,
    turned: null,
  };
}
