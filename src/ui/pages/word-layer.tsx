"use client";
import { type PointerEvent, useRef, useState } from "react";
import type { Word } from "#core/pages/page-text.ts";
import { boxAround, type Box } from "#core/reading/page-lines.ts";
import type { PageMark, PickedWords } from "./marks.ts";

/** A pointer that moved less than this was a click, CSS pixels. */
const CLICK_PX = 5;

/**
 * The words over a page's picture, to select, to search and, while a field wants one, to point at: a click takes a word, with Shift all from the one
 * before, and a box drawn with the pointer takes what is in it. Marks stand over them with their numbers.
 */
export function WordLayer({
  page,
  words,
  hits,
  marks,
  onPick,
}: {
  page: { readonly number: number; readonly width: number; readonly height: number };
  words: readonly Word[];
  hits: readonly { readonly box: Box; readonly now: boolean }[];
  marks: readonly PageMark[];
  onPick?: ((picked: PickedWords) => void) | undefined;
}) {
  const anchor = useRef<number | null>(null);
  const [drawn, setDrawn] = useState<{ readonly from: readonly [number, number]; readonly to: readonly [number, number] } | null>(null);
  const share = (n: number, of: number): string => `${(n / of) * 100}%`;
  const place = (box: Box, by = 0) => ({
    left: share(box[0] - by, page.width),
    top: share(box[1] - by, page.height),
    width: share(box[2] + 2 * by, page.width),
    height: share(box[3] + 2 * by, page.height),
  });
  /** Where a pointer is on the page, in points, however the page is turned on the screen. */
  const pointAt = (e: PointerEvent<HTMLElement>): readonly [number, number] => {
    const layer = e.currentTarget;
    const target = e.target instanceof HTMLElement && e.target !== layer ? e.target : null;
    const x = e.nativeEvent.offsetX + (target?.offsetLeft ?? 0);
    const y = e.nativeEvent.offsetY + (target?.offsetTop ?? 0);
    return [(x / layer.offsetWidth) * page.width, (y / layer.offsetHeight) * page.height];
  };
  const take = (picked: readonly Word[]): void => {
    if (picked.length > 0)
      onPick?.({ page: page.number, box: boxAround(picked.map((w) => w.box)), text: picked.map((w) => w.text).join(" ") });
  };
  const end = (e: PointerEvent<HTMLElement>): void => {
    if (!drawn) return;
    setDrawn(null);
    const [fromX, fromY] = drawn.from;
    const [toX, toY] = pointAt(e);
    const scale = e.currentTarget.offsetWidth / page.width;
    if (Math.hypot(toX - fromX, toY - fromY) * scale < CLICK_PX) {
      const at = words.findIndex(
        (w) => toX >= w.box[0] - 1 && toX <= w.box[0] + w.box[2] + 1 && toY >= w.box[1] - 1 && toY <= w.box[1] + w.box[3] + 1,
      );
      if (at === -1) return;
      const from = e.shiftKey && anchor.current !== null ? anchor.current : at;
      anchor.current = from;
      take(words.slice(Math.min(from, at), Math.max(from, at) + 1));
      return;
    }
    const [left, right, top, bottom] = [Math.min(fromX, toX), Math.max(fromX, toX), Math.min(fromY, toY), Math.max(fromY, toY)];
    take(
      words.filter(
        (w) =>
          w.box[0] + w.box[2] / 2 >= left &&
          w.box[0] + w.box[2] / 2 <= right &&
          w.box[1] + w.box[3] / 2 >= top &&
          w.box[1] + w.box[3] / 2 <= bottom,
      ),
    );
  };
  return (
    <div
      className={`word-layer ${onPick ? "is-picking" : ""}`}
      {...(onPick
        ? {
            // The field that wants the words keeps the keyboard.
            onMouseDown: (e: React.MouseEvent) => e.preventDefault(),
            onPointerDown: (e: PointerEvent<HTMLElement>) => {
              if (e.button !== 0) return;
              const at = pointAt(e);
              setDrawn({ from: at, to: at });
            },
            onPointerMove: (e: PointerEvent<HTMLElement>) => {
              const to = drawn ? pointAt(e) : null;
              if (to) setDrawn((now) => (now ? { ...now, to } : null));
            },
            onPointerUp: end,
            onPointerLeave: () => setDrawn(null),
          }
        : {})}
    >
      {words.map((w, i) => (
        <span key={i} className="word" style={{ ...place(w.box), fontSize: `${(w.box[3] / page.width) * 88}cqw` }}>
          {w.text}{" "}
        </span>
      ))}
      {hits.map((h, i) => (
        <span key={`hit${i}`} className={`hit ${h.now ? "now" : ""}`} style={place(h.box, 1)} />
      ))}
      {marks.map((m) => (
        <span
          key={`mark${m.number}`}
          className={`page-mark is-${m.tone} ${m.now ? "is-now" : ""}`}
          data-mark={m.number}
          style={place(m.box, 1.5)}
        >
          {m.number > 0 ? (
            <span className="number" aria-hidden="true">
              {m.number}
            </span>
          ) : null}
          <span className="visually-hidden">{m.words}</span>
        </span>
      ))}
      {drawn ? (
        <span
          className="drawn-box"
          style={place([
            Math.min(drawn.from[0], drawn.to[0]),
            Math.min(drawn.from[1], drawn.to[1]),
            Math.abs(drawn.to[0] - drawn.from[0]),
            Math.abs(drawn.to[1] - drawn.from[1]),
          ])}
        />
      ) : null}
    </div>
  );
}
