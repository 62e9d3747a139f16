"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type MouseEvent, type ReactNode, type Ref, useImperativeHandle, useRef } from "react";
import { Button } from "react-bootstrap";
import { Inboxes } from "react-bootstrap-icons";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { Empty } from "../kit/parts.tsx";
import { useMe } from "../people/me-context.tsx";
import { ArrivalRow } from "./arrival-row.tsx";

export const views = ["list", "pictures"] as const;
/** Height of a row and of a picture with its name, pixels; side by side as many as fit a narrow column. */
const HEIGHTS = { list: 84, pictures: 208 } as const;
const LANES = { list: 1, pictures: 2 } as const;
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
  currentId: string | undefined;
  ticked: ReadonlySet<string>;
  onNearEnd: () => void;
  onOpen: (index: number) => void;
  onTick: (id: string, range: boolean) => void;
  children: ReactNode;
}) {
  const { recordType } = useMe();
  const scroller = useRef<HTMLDivElement>(null);
  const height = HEIGHTS[view];
  const lanes = LANES[view];
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions change by design; nothing here is memoised on them
  const virtual = useVirtualizer({
    count: items.length,
    lanes,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
  });
  useImperativeHandle(handle, () => ({ show: (index) => virtual.scrollToIndex(index, { align: "auto" }) }), [virtual]);
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
          const a = items[v.index];
          if (!a) return null;
          const place = {
            position: "absolute",
            top: v.start,
            left: `${(v.lane / lanes) * 100}%`,
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
                recordLabel={a.tied ? `${recordType(a.tied.type)?.label ?? ""} ${a.tied.key}` : null}
                onOpen={(e) => click(e, v.index, a.id)}
                onTick={(range) => onTick(a.id, range)}
              />
            </div>
          );
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
    <Empty icon={<Inboxes size={36} />} title={isFiltered ? "Nothing here fits the filter" : "Nothing waits"}>
      {isFiltered ? (
        <Button variant="plain" className="mt-2" onClick={onShowAll}>
          Show all
        </Button>
      ) : (
        <>
          Drop papers anywhere on this page
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
