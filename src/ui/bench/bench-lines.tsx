"use client";
import { monitorForElements } from "@atlaskit/pragmatic-drag-and-drop/element/adapter";
import { combine } from "@atlaskit/pragmatic-drag-and-drop/combine";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type RefObject, useEffect, useMemo, useRef, useState } from "react";
import { Button } from "react-bootstrap";
import { type BenchPage, cutBetween, pageKey } from "#core/bench/bench-table.ts";
import type { BenchAnswer } from "#server/bench/load-bench.ts";
import type { LookUpHandle } from "../records/look-up.tsx";
import { countText } from "../kit/words.ts";
import { heights, linesOf, perLine } from "./lines.ts";
import { PageTile, type TileFacts } from "./page-tile.tsx";
import { useDrop } from "./use-drop.ts";
import { PileHead } from "./pile-head.tsx";
import { type PileState, pileState } from "./pile-proposal.ts";
import type { Bench } from "./use-bench.ts";

/** So near the edge a drag scrolls, px; and so far at a time. */
const EDGE = 60;
const SCROLL_BY = 18;

/** All piles from top to bottom; only the lines in sight are drawn, so that a thousand pages are no matter. */
export function BenchLines({
  bench,
  answer,
  states,
  isReading,
  lookUps,
}: {
  bench: Bench;
  answer: BenchAnswer;
  /** How each pile stands, by its id. */
  states: ReadonlyMap<number, PileState>;
  /** Some piles are still being read. */
  isReading: boolean;
  lookUps: RefObject<Map<number, LookUpHandle>>;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const across = perLine(width);
  const lines = useMemo(() => linesOf(bench.table, across), [bench.table, across]);
  // oxlint-disable-next-line react/incompatible-library -- its functions change by design; nothing here is memoised on them
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => heights[lines[i]?.kind ?? "pages"],
    overscan: 3,
  });
  useEffect(() => virtual.measure(), [lines, virtual]);
  // The page that one went to with the keyboard is always in sight.
  const focusLine = lines.findIndex((l) => "pages" in l && l.pages.some((p) => pageKey(p) === bench.focusKey));
  const shown = useRef(bench.focusKey);
  useEffect(() => {
    if (shown.current === bench.focusKey) return;
    shown.current = bench.focusKey;
    if (focusLine !== -1) virtual.scrollToIndex(focusLine, { align: "auto" });
  }, [bench.focusKey, focusLine, virtual]);
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    return combine(
      monitorForElements({
        onDrag: ({ location }) => {
          const box = element.getBoundingClientRect();
          const y = location.current.input.clientY;
          if (y < box.top + EDGE) element.scrollBy(0, -SCROLL_BY);
          else if (y > box.bottom - EDGE) element.scrollBy(0, SCROLL_BY);
        },
      }),
    );
  }, []);
  const codes = useMemo(() => new Map(answer.codes.map((c) => [`${c.source}:${c.page}`, codeWords[c.sort]])), [answer.codes]);
  const several = answer.sources.length > 1;
  const factsOf = (page: BenchPage, before: BenchPage | undefined): TileFacts => {
    const source = answer.sources[page.source];
    return {
      base: source?.arrival ? `/arrivals/${source.arrival}` : `/documents/${source?.document ?? ""}`,
      of: source?.of ?? "",
      label: several ? `${String.fromCharCode(65 + (page.source % 26))} ${page.page}` : `page ${page.page}`,
      blank: source?.pages[page.page - 1]?.blank ?? false,
      code: codes.get(pageKey(page)) ?? null,
      cut: cutBetween(before, page, answer.cuts)?.reason ?? null,
    };
  };
  const dragged = (key: string): readonly string[] => (bench.chosen.has(key) ? [...bench.chosen] : [key]);
  const tile = (page: BenchPage, before: BenchPage | undefined, index: number, pile: number | null) => {
    const key = pageKey(page);
    return (
      <PageTile
        key={key}
        page={page}
        facts={factsOf(page, before)}
        isFirst={index === 0}
        isFocus={key === bench.focusKey}
        isChosen={bench.chosen.has(key)}
        dragged={() => dragged(key)}
        onPoint={(how) => bench.point(key, how)}
        onCut={pile === null ? null : () => bench.cutBefore(key)}
        onDrop={(keys, side) => {
          if (pile === null) bench.dropThese(keys);
          else bench.move(keys, pile, side === "before" ? index : index + 1);
        }}
      />
    );
  };
  return (
    <div className="bench" ref={scroller} tabIndex={-1}>
      <div style={{ height: virtual.getTotalSize(), position: "relative" }}>
        {virtual.getVirtualItems().map((v) => {
          const line = lines[v.index];
          if (!line) return null;
          const style = { position: "absolute", top: v.start, left: 0, right: 0, height: v.size } as const;
          if (line.kind === "head") {
            const pile = bench.table.piles[line.at];
            const first = pile?.pages[0];
            const source = answer.sources[first?.source ?? 0];
            const state = states.get(line.pile) ?? pileState(undefined, null, []);
            return (
              <div key={`head ${line.pile}`} style={{ ...style, zIndex: lines.length - v.index }}>
                <PileHead
                  at={line.at}
                  count={line.count}
                  state={state}
                  isReading={isReading}
                  company={source?.company ?? undefined}
                  queue={source?.queue ?? undefined}
                  versionOf={source?.document ?? null}
                  handle={(handle) => {
                    if (handle) lookUps.current.set(line.pile, handle);
                    else lookUps.current.delete(line.pile);
                  }}
                  onSheet={(to) => bench.setSheet(line.pile, { ...state.sheet, ...to })}
                  onJoin={line.at === 0 ? null : () => bench.join(line.pile)}
                  onDrop={(keys) => bench.move(keys, line.pile, 0)}
                />
              </div>
            );
          }
          if (line.kind === "pages") {
            const all = bench.table.piles.find((p) => p.id === line.pile)?.pages ?? [];
            return (
              <div key={`pages ${line.pile} ${line.from}`} className="bench-line" style={style}>
                {line.pages.map((page, i) => tile(page, all[line.from + i - 1], line.from + i, line.pile))}
              </div>
            );
          }
          if (line.kind === "tray")
            return (
              <div key="tray" style={style}>
                <Tray
                  count={line.count}
                  onDrop={bench.dropThese}
                  onBack={() => bench.bringBack(new Set(bench.table.dropped.map(pageKey)))}
                />
              </div>
            );
          return (
            <div key={`dropped ${v.index}`} className="bench-line is-dropped" style={style}>
              {line.pages.map((page) => (
                <div key={pageKey(page)}>
                  {tile(page, undefined, 0, null)}
                  <Button size="sm" variant="quiet" className="bench-back" onClick={() => bench.bringBack(new Set([pageKey(page)]))}>
                    Restore
                  </Button>
                </div>
              ))}
            </div>
          );
        })}
      </div>
      <OwnPile onDrop={(keys) => bench.move(keys, null, bench.table.piles.length)} />
    </div>
  );
}

const codeWords: Readonly<Record<BenchAnswer["codes"][number]["sort"], string>> = {
  coverSheet: "cover sheet",
  separator: "separator sheet",
  label: "label",
  ofTheBusinessSystem: "barcode",
};

/** Where pages lie that are left out of everything. */
function Tray({ count, onDrop, onBack }: { count: number; onDrop: (keys: ReadonlySet<string>) => void; onBack: () => void }) {
  const [target, over] = useDrop(onDrop);
  return (
    <div ref={target} className={`bench-head is-tray ${over ? "is-over" : ""}`} role="group" aria-label="Left out">
      <strong>Left out</strong>
      <span className="text-2">{countText(count, "page")} not in any document; the original keeps them</span>
      <Button size="sm" variant="quiet" className="ms-auto" onClick={onBack}>
        Restore all
      </Button>
    </div>
  );
}

/** Pages dropped here become a document of their own. */
function OwnPile({ onDrop }: { onDrop: (keys: ReadonlySet<string>) => void }) {
  const [target, over] = useDrop(onDrop);
  return (
    <div ref={target} className={`bench-own ${over ? "is-over" : ""}`}>
      Drag pages here to make a document, or press <kbd>N</kbd>
    </div>
  );
}
