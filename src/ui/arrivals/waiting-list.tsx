"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type MouseEvent, type ReactNode, type Ref, useEffect, useImperativeHandle, useMemo, useRef } from "react";
import { Button } from "react-bootstrap";
import { Inboxes } from "react-bootstrap-icons";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { Empty } from "../kit/parts.tsx";
import { useMe } from "../people/me-context.tsx";
import { ArrivalRow } from "./arrival-row.tsx";

export const views = ["list", "pictures"] as const;
/** Height of a row, of a picture with its name, and of a heading, pixels. */
const HEIGHTS = { list: 84, pictures: 208, heading: 34 } as const;
/** Side by side as many as fit a narrow column. */
const LANES = { list: 1, pictures: 2 } as const;

/** A line of the list: a heading, or as many arrivals as stand side by side, by their index. */
type Line = { readonly heading: string; readonly count: number } | { readonly from: number; readonly count: number };

/** The lines of the list; headings where the group changes. */
export function waitingLines(
  items: readonly ArrivalAnswer[],
  lanes: number,
  groupOf: ((a: ArrivalAnswer) => string) | null,
): readonly Line[] {
  const lines: Line[] = [];
  for (let at = 0; at < items.length;) {
    const first = items[at];
    let end = items.length;
    if (groupOf && first) {
      const group = groupOf(first);
      end = at;
      while (end < items.length && groupOf(items[end] ?? first) === group) end++;
      lines.push({ heading: group, count: end - at });
    }
    for (; at < end; at += lanes) lines.push({ from: at, count: Math.min(lanes, end - at) });
    at = end;
  }
  return lines;
}
/** Rows before the end at which the next ones are asked for. */
const AHEAD = 20;

export interface WaitingListHandle {
  /** Scrolls so that the row can be seen. */
  show(index: number): void;
}

/** What waits, as a list or as pictures; only what can be seen is drawn, so that thousands are no matter. */
export function WaitingList({
  handle,
  items,
  view,
  groupOf,
  currentId,
  ticked,
  onNearEnd,
  onOpen,
  onTick,
  children,
}: {
  handle: Ref<WaitingListHandle>;
  items: readonly ArrivalAnswer[];
  view: (typeof views)[number];
  /** The heading that an arrival stands under; null for a list without headings. */
  groupOf: ((a: ArrivalAnswer) => string) | null;
  currentId: string | undefined;
  ticked: ReadonlySet<string>;
  onNearEnd: () => void;
  onOpen: (index: number) => void;
  onTick: (id: string, range: boolean) => void;
  children: ReactNode;
}) {
  const { me, recordType } = useMe();
  const scroller = useRef<HTMLDivElement>(null);
  const height = HEIGHTS[view];
  const lanes = LANES[view];
  const lines = useMemo(() => waitingLines(items, lanes, groupOf), [items, lanes, groupOf]);
  // oxlint-disable-next-line react/incompatible-library -- its functions change by design; nothing here is memoised on them
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: (i) => (lines[i] && "heading" in lines[i] ? HEIGHTS.heading : height),
    overscan: 10,
  });
  useEffect(() => virtual.measure(), [lines, virtual]);
  useImperativeHandle(
    handle,
    () => ({
      show: (index) =>
        virtual.scrollToIndex(
          lines.findIndex((l) => "from" in l && index >= l.from && index < l.from + l.count),
          { align: "auto" },
        ),
    }),
    [virtual, lines],
  );
  const anyTicked = items.some((a) => ticked.has(a.id));
  const click = (event: MouseEvent, index: number, id: string): void => {
    if (event.shiftKey) onTick(id, true);
    else if (event.ctrlKey) onTick(id, false);
    else onOpen(index);
  };
  return (
    <div
      className="papers"
      ref={scroller}
      onScroll={(e) => {
        const el = e.currentTarget;
        if (el.scrollHeight - el.scrollTop - el.clientHeight < (height * AHEAD) / lanes) onNearEnd();
      }}
    >
      {children}
      <div key={view} style={{ height: virtual.getTotalSize(), position: "relative" }} role="list" aria-label="Arrivals">
        {virtual.getVirtualItems().map((v) => {
          const line = lines[v.index];
          if (!line) return null;
          if ("heading" in line)
            return (
              <div
                key={`heading ${v.index}`}
                className="waiting-heading"
                style={{ position: "absolute", top: v.start, left: 0, right: 0, height: v.size }}
              >
                <span className="text-truncate">{line.heading}</span>
                <span className="text-2 ms-auto">{line.count.toLocaleString("en-GB")}</span>
              </div>
            );
          return items.slice(line.from, line.from + line.count).map((a, lane) => {
            const index = line.from + lane;
            const place = {
              position: "absolute",
              top: v.start,
              left: `${(lane / lanes) * 100}%`,
              width: `${100 / lanes}%`,
              height,
            } as const;
            return (
              <div key={a.id} role="listitem" style={place}>
                <ArrivalRow
                  arrival={a}
                  asPicture={view === "pictures"}
                  chosen={a.id === currentId}
                  ticked={ticked.has(a.id)}
                  anyTicked={anyTicked}
                  myId={me.id}
                  recordLabel={a.tied ? `${recordType(a.tied.type)?.label ?? ""} ${a.tied.key}` : null}
                  onOpen={(e) => click(e, index, a.id)}
                  onTick={(range) => onTick(a.id, range)}
                />
              </div>
            );
          });
        })}
      </div>
    </div>
  );
}

/** What an empty list says. */
export function NothingWaits({
  isFiltered,
  onShowAll,
  onChoose,
}: {
  isFiltered: boolean;
  onShowAll: () => void;
  onChoose: (() => void) | null;
}) {
  return (
    <Empty icon={<Inboxes size={36} />} title={isFiltered ? "No documents match the filter" : "Nothing is waiting"}>
      {isFiltered ? (
        <Button variant="plain" className="mt-2" onClick={onShowAll}>
          Show all
        </Button>
      ) : (
        <>
          Drop documents anywhere on this page
          {onChoose ? (
            <div className="mt-3">
              <Button variant="plain" onClick={onChoose}>
                Choose files
              </Button>
            </div>
          ) : null}
        </>
      )}
    </Empty>
  );
}
