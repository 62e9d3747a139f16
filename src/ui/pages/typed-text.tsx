"use client";
import { type MouseEvent, useMemo, useRef, useState } from "react";
import { wordsOfText } from "#core/pages/text-page.ts";
import { boxAround } from "#core/reading/page-lines.ts";
import type { PageMark, PickedWords } from "./marks.ts";
import { piecesOf, type TypedHit, wordsBetween } from "./typed-pieces.ts";

/** What a view of typed text shows beside the text, and who takes words that are pointed at. */
export interface TypedProps {
  readonly marks: readonly PageMark[];
  readonly hits: readonly (TypedHit & { readonly page: number })[];
  readonly onPick?: ((picked: PickedWords) => void) | undefined;
}

/**
 * Running text with its marks and hits, and, while a field wants words, to point at: a click takes a word, with Shift all from the one before, and
 * drawing along the lines takes what lies between. `firstLine` is where it begins in the paper's text.
 */
export function TypedText({ text, firstLine = 0, marks, hits, onPick }: TypedProps & { text: string; firstLine?: number }) {
  const words = useMemo(() => wordsOfText(text, firstLine).flat(), [text, firstLine]);
  const anchor = useRef<number | null>(null);
  const [drawn, setDrawn] = useState<readonly [from: number, to: number] | null>(null);
  const stretch = useMemo(() => {
    const touched = drawn ? wordsBetween(words, ...drawn) : [];
    const [first, last] = [touched[0], touched.at(-1)];
    return first && last ? ([first.at, last.at + last.text.length] as const) : null;
  }, [words, drawn]);
  const pieces = useMemo(() => piecesOf(text, words, marks, hits, stretch), [text, words, marks, hits, stretch]);
  const end = (e: MouseEvent): void => {
    const to = drawn ? (placeAt(e) ?? drawn[1]) : null;
    const from = drawn?.[0];
    setDrawn(null);
    if (to === null || from === undefined) return;
    const begun = e.shiftKey && anchor.current !== null ? anchor.current : from;
    anchor.current = begun;
    const picked = wordsBetween(words, begun, to);
    if (picked.length > 0) onPick?.({ page: 1, box: boxAround(picked.map((w) => w.box)), text: picked.map((w) => w.text).join(" ") });
  };
  return (
    <span
      className={`typed-text ${onPick ? "is-picking" : ""}`}
      {...(onPick
        ? {
            // The field that wants the words keeps the keyboard.
            onMouseDown: (e: MouseEvent) => {
              e.preventDefault();
              const at = e.button === 0 ? placeAt(e) : null;
              setDrawn(at === null ? null : [at, at]);
            },
            onMouseMove: (e: MouseEvent) => {
              const to = drawn ? placeAt(e) : null;
              if (to !== null) setDrawn((now) => (now ? [now[0], to] : null));
            },
            onMouseUp: end,
            onMouseLeave: () => setDrawn(null),
          }
        : {})}
    >
      {pieces.map((p) => {
        const mark = p.marks.find((m) => m.now) ?? p.marks[0];
        if (!mark && p.hit === "no" && !p.isDrawn)
          return (
            <span key={p.at} data-at={p.at}>
              {p.text}
            </span>
          );
        return (
          <span key={p.at} className={`${mark ? markClass(mark) : ""} ${hitClass(p.hit)} ${p.isDrawn ? "drawn-text" : ""}`}>
            <span data-at={p.at}>{p.text}</span>
            {p.ending.map((m) => (
              <MarkNumber key={m.number} mark={m} />
            ))}
          </span>
        );
      })}
    </span>
  );
}

/** How a marked stretch or cell looks. */
export const markClass = (mark: PageMark): string => `text-mark is-${mark.tone} ${mark.now ? "is-now" : ""}`;
export const hitClass = (hit: "no" | "yes" | "now"): string => (hit === "no" ? "" : `text-hit hit ${hit === "now" ? "now" : ""}`);

/** The number that a mark bears, and what it says for those who do not see it. */
export function MarkNumber({ mark }: { mark: PageMark }) {
  return (
    <span data-mark={mark.number}>
      {mark.number > 0 ? (
        <span className="place-number" aria-hidden="true">
          {mark.number}
        </span>
      ) : null}
      <span className="visually-hidden">{mark.words}</span>
    </span>
  );
}

/** Letters of the text before where a pointer is; null where there is none of it. Browsers have one of two ways to tell. */
function placeAt({ clientX: x, clientY: y }: MouseEvent): number | null {
  const range = document.caretRangeFromPoint?.(x, y);
  const place = range ? null : document.caretPositionFromPoint?.(x, y);
  const node = range?.startContainer ?? place?.offsetNode;
  const piece = node?.parentElement?.closest<HTMLElement>("[data-at]");
  return piece ? Number(piece.dataset["at"]) + (range?.startOffset ?? place?.offset ?? 0) : null;
}
