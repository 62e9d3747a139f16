"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type ReactNode, useEffect, useLayoutEffect, useRef, useState } from "react";
import { ChevronDown, ChevronRight } from "react-bootstrap-icons";
import type { RecordDocument } from "#server/records/load-record-page.ts";
import { arePapers, draggedPapers } from "../documents/dragged-papers.ts";
import { Icon } from "../kit/icon.tsx";
import type { Labels, PaperColumn } from "./paper-columns.ts";
import type { PaperGroup } from "./paper-groups.ts";
import { type PaperMark, PaperRow } from "./paper-row.tsx";

/** From so many documents on only those in sight are drawn. */
const WINDOW_FROM = 60;
/** Height of a row before it was measured, pixels, and rows drawn beyond what is in sight. */
const ROW_HEIGHT = 56;
const BEYOND = 12;

/** A record's documents under one head, a section or a document type, that can be shut. Documents can be dragged onto a section's head. */
export function PapersOfGroup({
  group,
  chosen,
  ticked,
  marks,
  columns,
  labels,
  scroller,
  isShut,
  children,
  onShut,
  onOpen,
  onTick,
  onDropped,
}: {
  group: PaperGroup;
  chosen: string | undefined;
  ticked: ReadonlySet<string>;
  /** What of the checklist a document counts for, by code. */
  marks: ReadonlyMap<string, PaperMark>;
  columns: readonly PaperColumn[];
  labels: Labels;
  /** What the documents scroll in. */
  scroller: () => HTMLElement | null;
  isShut: boolean;
  /** What can be done about the group, beside its head. */
  children?: ReactNode;
  onShut: () => void;
  onOpen: (paper: RecordDocument) => void;
  onTick: (paper: RecordDocument, range: boolean) => void;
  /** Absent where documents cannot be moved here. */
  onDropped?: ((codes: readonly string[]) => void) | undefined;
}) {
  const [isOver, setOver] = useState(false);
  const row = (d: RecordDocument) => (
    <PaperRow
      key={d.code}
      paper={d}
      mark={marks.get(d.code)}
      columns={columns}
      labels={labels}
      saysType={group.path !== null || group.key === "notPlaced"}
      isChosen={d.code === chosen}
      isTicked={ticked.has(d.code)}
      ticked={ticked}
      onOpen={() => onOpen(d)}
      onTick={(range) => onTick(d, range)}
    />
  );
  return (
    <section
      className={`paper-group tint-${group.tint}`}
      style={{ marginLeft: group.depth * 18 }}
      {...(onDropped
        ? {
            onDragOver: (e: React.DragEvent) => {
              if (!arePapers(e.dataTransfer)) return;
              e.preventDefault();
              setOver(true);
            },
            onDragLeave: () => setOver(false),
            onDrop: (e: React.DragEvent) => {
              setOver(false);
              const codes = draggedPapers(e.dataTransfer);
              if (codes.length === 0) return;
              e.preventDefault();
              e.stopPropagation();
              onDropped(codes);
            },
          }
        : {})}
    >
      <div className={`group-line ${isOver ? "is-over" : ""}`}>
        <button type="button" className="group-head" aria-expanded={!isShut} onClick={onShut}>
          {isShut ? <ChevronRight size={13} /> : <ChevronDown size={13} />}
          {group.icon ? <Icon name={group.icon} size={15} /> : null}
          {group.label} <span className="text-3 fw-normal">{group.count === 0 ? "none" : group.count}</span>
        </button>
        {isOver ? <span className="drop-label">Move to {group.label}</span> : null}
        {children}
      </div>
      {isShut ? null : group.papers.length < WINDOW_FROM ? (
        group.papers.map(row)
      ) : (
        <Windowed papers={group.papers} chosen={chosen} scroller={scroller} row={row} />
      )}
    </section>
  );
}

/** Many documents, of which only those in sight are drawn; the chosen one is brought into sight. */
function Windowed({
  papers,
  chosen,
  scroller,
  row,
}: {
  papers: readonly RecordDocument[];
  chosen: string | undefined;
  scroller: () => HTMLElement | null;
  row: (paper: RecordDocument) => ReactNode;
}) {
  const list = useRef<HTMLDivElement>(null);
  const [start, setStart] = useState(0);
  // What stands above it can be opened and shut.
  // oxlint-disable-next-line react/exhaustive-deps -- measured after every drawing; it is only set when it is another
  useLayoutEffect(() => {
    const [outer, inner] = [scroller(), list.current];
    if (!outer || !inner) return;
    const at = Math.round(inner.getBoundingClientRect().top - outer.getBoundingClientRect().top + outer.scrollTop);
    if (at !== start) setStart(at);
  });
  const virtual = useVirtualizer({
    count: papers.length,
    getScrollElement: scroller,
    estimateSize: () => ROW_HEIGHT,
    overscan: BEYOND,
    scrollMargin: start,
    getItemKey: (i) => papers[i]?.code ?? i,
  });
  const index = papers.findIndex((p) => p.code === chosen);
  useEffect(() => {
    if (index !== -1) virtual.scrollToIndex(index, { align: "auto" });
    // oxlint-disable-next-line react/exhaustive-deps -- only when another document is chosen
  }, [index]);
  return (
    <div ref={list} style={{ height: virtual.getTotalSize(), position: "relative" }}>
      {virtual.getVirtualItems().map((item) => {
        const paper = papers[item.index];
        return paper ? (
          <div
            key={item.key}
            ref={virtual.measureElement}
            data-index={item.index}
            style={{ position: "absolute", insetInline: 0, top: 0, transform: `translateY(${item.start - start}px)` }}
          >
            {row(paper)}
          </div>
        ) : null;
      })}
    </div>
  );
}
