"use client";
import { useRouter } from "next/navigation";
import { ChevronDown, ChevronRight } from "react-bootstrap-icons";
import type { ItemState } from "#core/checklists/checklist-state.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import type { RecordDocument } from "#server/records/load-record-page.ts";
import { ClipMark } from "../checklists/clip-mark.tsx";
import { dragPaper } from "../checklists/dragged-paper.ts";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { countText, dayText, sourceWords } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";

/** A record's papers of one document type, under a head that can be shut. */
export function PapersOfType({
  type,
  papers,
  chosen,
  marks,
  isShut,
  onShut,
  onOpen,
}: {
  type: DocumentType;
  papers: readonly RecordDocument[];
  chosen: string | undefined;
  /** What of the checklist a paper counts for, by code. */
  marks: ReadonlyMap<string, { readonly state: ItemState; readonly label: string }>;
  isShut: boolean;
  onShut: () => void;
  onOpen: (paper: RecordDocument) => void;
}) {
  const { recordType } = useMe();
  const router = useRouter();
  const mark = (code: string) => {
    const known = marks.get(code);
    return known ? <ClipMark state={known.state} label={known.label} /> : <span />;
  };
  return (
    <section>
      <button type="button" className="group-head" aria-expanded={!isShut} onClick={onShut}>
        {isShut ? <ChevronRight size={13} /> : <ChevronDown size={13} />}
        {papers.length === 1 ? type.label : type.plural} <span className="text-3 fw-normal">{papers.length}</span>
      </button>
      {isShut
        ? null
        : papers.map((d) => (
            <button
              type="button"
              key={d.code}
              className={`doc-row has-mark ${d.code === chosen ? "is-chosen" : ""}`}
              aria-current={d.code === chosen ? "true" : undefined}
              draggable
              onDragStart={(e) => dragPaper(e.dataTransfer, d.code)}
              onClick={() => onOpen(d)}
              onDoubleClick={() => router.push(`/documents/${d.code}`)}
            >
              <Icon name={kindIcon(d.kind)} size={17} />
              <span style={{ minWidth: 0 }}>
                <span className="name d-block">
                  {d.title}
                  {d.version > 1 ? <span className="chip ms-2">v{d.version}</span> : null}
                </span>
                <span className="text-2 small d-block text-truncate">
                  {d.from
                    ? `from ${recordType(d.from.type)?.short ?? ""} ${d.from.key}`
                    : [d.code, d.pages ? countText(d.pages, "page") : null].filter(Boolean).join(" · ")}
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
