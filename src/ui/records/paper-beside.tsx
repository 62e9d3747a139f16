"use client";
import { Button } from "react-bootstrap";
import { ArrowLeft, ChevronLeft, ChevronRight } from "react-bootstrap-icons";
import type { RecordDocument } from "#server/records/load-record-page.ts";
import { Icon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { Empty } from "../kit/parts.tsx";
import { dayText } from "../kit/words.ts";
import { Viewer } from "../pages/viewer.tsx";
import { useMe } from "../people/me-context.tsx";

/** The document that is open beside a record's list, with the way to the next. */
export function PaperBeside({
  paper,
  index,
  count,
  onOpen,
  onBack,
}: {
  paper: RecordDocument | undefined;
  index: number;
  count: number;
  onOpen: (index: number) => void;
  onBack: () => void;
}) {
  const { documentType } = useMe();
  return (
    <section className="d-flex flex-column h-100 border-start" aria-label="Document">
      <div className="bar step-back">
        <Button variant="quiet" onClick={onBack}>
          <ArrowLeft /> Documents
        </Button>
      </div>
      {paper ? (
        <>
          <div className="px-3 py-2 border-bottom" style={{ background: "var(--paper-0)", flex: "none" }}>
            <div className="d-flex align-items-center gap-2">
              <strong className="text-truncate" style={{ fontSize: "0.9375rem" }}>
                {paper.title}
              </strong>
              <span className="mono text-3 small text-nowrap">{paper.code}</span>
              <span className="ms-auto text-nowrap">
                <Button variant="quiet" aria-label="Previous document" disabled={index === 0} onClick={() => onOpen(index - 1)}>
                  <ChevronLeft />
                </Button>
                {index + 1} of {count}
                <Button variant="quiet" aria-label="Next document" disabled={index >= count - 1} onClick={() => onOpen(index + 1)}>
                  <ChevronRight />
                </Button>
              </span>
            </div>
            <div className="text-2 small">
              {[documentType(paper.documentType)?.label, dayText(paper.documentDate), paper.filedBy ? `filed by ${paper.filedBy}` : null]
                .filter(Boolean)
                .join(" · ")}
            </div>
          </div>
          <Viewer base={`/documents/${paper.code}`} />
          <div className="foot">
            <Link className="btn btn-plain" href={`/documents/${paper.code}`}>
              Open <kbd>Enter</kbd>
            </Link>
            <a className="btn btn-plain" href={`/api/v1/documents/${paper.code}/content?download=1`}>
              Download
            </a>
          </div>
        </>
      ) : (
        <div className="viewer">
          <Empty icon={<Icon name="file-earmark" size={34} />} title="No document selected" />
        </div>
      )}
    </section>
  );
}
