"use client";
import { useRouter } from "next/navigation";
import { type ReactNode, useState } from "react";
import { ChevronDown, ChevronRight } from "react-bootstrap-icons";
import type { ItemState } from "#core/checklists/checklist-state.ts";
import type { RecordDocument } from "#server/records/load-record-page.ts";
import { ClipMark } from "../checklists/clip-mark.tsx";
import { arePapers, draggedPapers, dragPapers } from "../documents/dragged-papers.ts";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { countText, dayText, sourceWords } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import type { PaperGroup } from "./paper-groups.ts";

/** A record's papers under one head, a section or a document type, that can be shut. Papers can be dragged onto a section's head. */
export function PapersOfGroup({
  group,
  chosen,
  ticked,
  marks,
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
  /** What of the checklist a paper counts for, by code. */
  marks: ReadonlyMap<string, { readonly state: ItemState; readonly label: string }>;
  isShut: boolean;
  /** What can be done about the group, beside its head. */
  children?: ReactNode;
  onShut: () => void;
  onOpen: (paper: RecordDocument) => void;
  onTick: (paper: RecordDocument, range: boolean) => void;
  /** Absent where papers cannot be moved here. */
  onDropped?: ((codes: readonly string[]) => void) | undefined;
}) {
  const { documentType, recordType } = useMe();
  const router = useRouter();
  const [isOver, setOver] = useState(false);
  const mark = (code: string) => {
    const known = marks.get(code);
    return known ? <ClipMark state={known.state} label={known.label} /> : <span />;
  };
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
        {children}
      </div>
      {isShut
        ? null
        : group.papers.map((d) => (
            <button
              type="button"
              key={d.code}
              className={`doc-row has-mark ${d.code === chosen ? "is-chosen" : ""} ${ticked.has(d.code) ? "is-ticked" : ""}`}
              aria-current={d.code === chosen ? "true" : undefined}
              aria-pressed={ticked.size > 0 ? ticked.has(d.code) : undefined}
              draggable
              onDragStart={(e) => dragPapers(e.dataTransfer, ticked.has(d.code) ? [...ticked] : [d.code])}
              onClick={(e) => {
                if (e.ctrlKey || e.metaKey || e.shiftKey) onTick(d, e.shiftKey);
                else onOpen(d);
              }}
              onDoubleClick={() => router.push(`/documents/${d.code}`)}
            >
              <Icon name={kindIcon(d.kind)} size={17} />
              <span style={{ minWidth: 0 }}>
                <span className="name d-block">
                  {d.title}
                  {d.version > 1 ? <span className="chip ms-2">v{d.version}</span> : null}
                </span>
                <span className="text-2 small d-block text-truncate">
                  {[
                    d.from ? `from ${recordType(d.from.type)?.short ?? ""} ${d.from.key}` : d.code,
                    group.path === null && group.key !== "notPlaced" ? null : documentType(d.documentType)?.label,
                    d.from ? null : d.pages ? countText(d.pages, "page") : null,
                  ]
                    .filter(Boolean)
                    .join(" · ")}
                </span>
              </span>
              <span className="text-2 small text-end">
                {dayText(d.documentDate)}
                <span className="d-block">
                  {sourceWords[d.source ?? ""] ?? ""}
                  {d.state === "failed" ? (
                    <span className="chip rust ms-1">not placed</span>
                  ) : d.state === "waiting" ? (
                    <span className="chip ms-1">being placed</span>
                  ) : null}
                </span>
              </span>
              {mark(d.code)}
            </button>
          ))}
    </section>
  );
}
