/** A word on a page and where it stands: points (1/72 inch) from the top left of the page as displayed. */
export interface Word {
  readonly text: string;
  readonly box: readonly [x: number, y: number, width: number, height: number];
}

/** One page of a document as read: its size in points, and its words in reading order. */
export interface PageText {
  readonly number: number;
  readonly widthPoints: number;
  readonly heightPoints: number;
  readonly words: readonly Word[];
}

/** A page's words as running text: a new line where the words step down, else a blank. */
export function textOfWords(words: readonly Word[]): string {
  let text = "";
  let last: Word | null = null;
  for (const word of words) {
    if (last !== null) {
      const stepsDown = word.box[1] > last.box[1] + last.box[3] * 0.6 || word.box[1] + word.box[3] * 0.6 < last.box[1];
      text += stepsDown ? "\n" : " ";
    }
    text += word.text;
    last = word;
  }
  return text;
}
