import type { Word } from "#core/pages/page-text.ts";
import type { TextWord } from "#core/pages/text-page.ts";
import type { Box } from "#core/reading/page-lines.ts";
import type { PageMark } from "./marks.ts";

/** A hit of a search, and whether it is the one that is gone to. */
export interface TypedHit {
  readonly box: Box;
  readonly now: boolean;
}

/** A run of text under the same marks. */
export interface Piece {
  readonly at: number;
  readonly text: string;
  readonly marks: readonly PageMark[];
  /** Of those, the ones that end with it: there stand their numbers. */
  readonly ending: readonly PageMark[];
  readonly hit: "no" | "yes" | "now";
  /** It is being pointed at. */
  readonly isDrawn: boolean;
}

/** Whether a word stands within a box: its middle does. */
export function isWithin(word: Word, box: Box): boolean {
  const x = word.box[0] + word.box[2] / 2;
  const y = word.box[1] + word.box[3] / 2;
  return x >= box[0] && x <= box[0] + box[2] && y >= box[1] && y <= box[1] + box[3];
}

/** Cuts a text where a mark, a hit or what is drawn begins or ends. Together the pieces are the text, whatever is marked. */
export function piecesOf(
  text: string,
  words: readonly TextWord[],
  marks: readonly PageMark[],
  hits: readonly TypedHit[],
  drawn: readonly [from: number, to: number] | null,
): readonly Piece[] {
  const rangeOf = (box: Box): readonly [number, number] | null => {
    const inside = words.filter((w) => isWithin(w, box));
    const [first, last] = [inside[0], inside.at(-1)];
    return first && last ? [first.at, last.at + last.text.length] : null;
  };
  const ranged = <T extends { readonly box: Box }>(all: readonly T[]) =>
    all.flatMap((of) => {
      const range = rangeOf(of.box);
      return range ? [{ of, range }] : [];
    });
  const [marked, found] = [ranged(marks), ranged(hits)];
  const cuts = new Set([0, text.length, ...(drawn ?? []), ...[...marked, ...found].flatMap(({ range }) => range)]);
  const places = [...cuts].filter((at) => at >= 0 && at <= text.length).sort((a, b) => a - b);
  return places.slice(0, -1).map((at, i) => {
    const end = places[i + 1] ?? text.length;
    const covers = ({ range }: { readonly range: readonly [number, number] }): boolean => range[0] <= at && range[1] >= end;
    const over = marked.filter(covers);
    const hit = found.filter(covers);
    return {
      at,
      text: text.slice(at, end),
      marks: over.map((m) => m.of),
      ending: over.filter((m) => m.range[1] === end).map((m) => m.of),
      hit: hit.some((h) => h.of.now) ? "now" : hit.length > 0 ? "yes" : "no",
      isDrawn: drawn !== null && drawn[0] <= at && drawn[1] >= end,
    };
  });
}

/** The words that a stretch of the text touches; a single place touches the word it stands in. */
export const wordsBetween = (words: readonly TextWord[], a: number, b: number): readonly TextWord[] =>
  words.filter((w) => w.at <= Math.max(a, b) && w.at + w.text.length >= Math.min(a, b));
