"use client";
import { useRouter } from "next/navigation";
import { useEffect, useRef } from "react";
import type { ItemState } from "#core/checklists/checklist-state.ts";
import type { RecordDocument } from "#server/records/load-record-page.ts";
import { ClipMark } from "../checklists/clip-mark.tsx";
import { dragPapers } from "../documents/dragged-papers.ts";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { countText, dayText, sourceWords } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { columnTracks, type Labels, type PaperColumn } from "./paper-columns.ts";

/** What of the checklist a document counts for. */
export interface PaperMark {
  readonly state: ItemState;
  readonly label: string;
}

/** One of a record's documents: in two lines with what matters most, or with the columns that somebody chose. */
export function PaperRow({
  paper: d,
  mark,
  columns,
  labels,
  saysType,
  isChosen,
  isTicked,
  ticked,
  onOpen,
  onTick,
}: {
  paper: RecordDocument;
  mark: PaperMark | undefined;
  columns: readonly PaperColumn[];
  labels: Labels;
  /** Under a section the document type is said, too. */
  saysType: boolean;
  isChosen: boolean;
  isTicked: boolean;
  ticked: ReadonlySet<string>;
  onOpen: () => void;
  onTick: (range: boolean) => void;
}) {
  const { documentType, recordType } = useMe();
  const router = useRouter();
  const row = useRef<HTMLButtonElement>(null);
  // The list is one Tab stop: the arrows choose, and the focus goes along where it is in the list already.
  useEffect(() => {
    if (isChosen && document.activeElement?.matches(".doc-row[data-keys]")) row.current?.focus();
  }, [isChosen]);
  const state =
    d.state === "failed" ? (
      <span className="chip rust ms-1">failed</span>
    ) : d.state === "outOfSync" ? (
      <span className="chip rust ms-1" title="The file in the repository differs from the filed version">
        out of sync
      </span>
    ) : d.state === "waiting" ? (
      <span className="chip ms-1">waiting</span>
    ) : null;
  return (
    <button
      type="button"
      className={`doc-row has-mark ${isChosen ? "is-chosen" : ""} ${isTicked ? "is-ticked" : ""} ${columns.length > 0 ? "has-columns" : ""}`}
      style={columns.length > 0 ? { gridTemplateColumns: columnTracks(columns) } : undefined}
      ref={row}
      tabIndex={isChosen ? 0 : -1}
      data-keys="page"
      aria-current={isChosen ? "true" : undefined}
      aria-pressed={ticked.size > 0 ? isTicked : undefined}
      draggable
      onDragStart={(e) => dragPapers(e.dataTransfer, isTicked ? [...ticked] : [d.code])}
      onClick={(e) => {
        if (e.ctrlKey || e.metaKey || e.shiftKey) onTick(e.shiftKey);
        else onOpen();
      }}
      onDoubleClick={() => router.push(`/documents/${d.code}`)}
    >
      <Icon name={kindIcon(d.kind)} size={17} />
      <span style={{ minWidth: 0 }}>
        <span className="name d-block">
          {d.title}
          {d.version > 1 ? <span className="chip ms-2">v{d.version}</span> : null}
          {columns.length > 0 ? state : null}
        </span>
        {columns.length > 0 ? null : (
          <>
            <span className="text-2 small d-block text-truncate">
              {[
                d.from ? `from ${recordType(d.from.type)?.short ?? ""} ${d.from.key}` : d.code,
                saysType ? documentType(d.documentType)?.label : null,
                d.from ? null : d.pages ? countText(d.pages, "page") : null,
              ]
                .filter(Boolean)
                .join(" · ")}
            </span>
            {d.note ? <span className="clip-note d-block">{d.note}</span> : null}
          </>
        )}
      </span>
      {columns.length > 0 ? (
        columns.map((c) => {
          const text = c.text(d, labels);
          return (
            <span key={c.key} className={`cell text-2 small ${c.key === "note" ? "clip-note" : ""}`} title={text}>
              {text}
            </span>
          );
        })
      ) : (
        <span className="text-2 small text-end">
          {dayText(d.documentDate)}
          <span className="d-block">
            {sourceWords[d.source ?? ""] ?? ""}
            {state}
          </span>
        </span>
      )}
      {mark ? <ClipMark state={mark.state} label={mark.label} /> : <span />}
    </button>
  );
}
