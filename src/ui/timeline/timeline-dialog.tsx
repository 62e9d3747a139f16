"use client";
import { useQuery } from "@tanstack/react-query";
import { Modal } from "react-bootstrap";
import type { TimelineEntry } from "#server/timeline/list-lines.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, wordsOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { Skeletons, Trouble, When } from "../kit/parts.tsx";
import { recordHref } from "../records/record-href.ts";

/** What happened, newest first. `path` is the API's address; null closes it. */
export function TimelineDialog({ path, title, onHide }: { path: string | null; title: string; onHide: () => void }) {
  return (
    <Dialog show={path !== null} onHide={onHide} size="lg" scrollable aria-labelledby="timeline-title">
      <Modal.Header closeButton>
        <h2 id="timeline-title">Timeline of {title}</h2>
      </Modal.Header>
      <Modal.Body tabIndex={0}>{path ? <Timeline path={path} of={title} /> : null}</Modal.Body>
    </Dialog>
  );
}

/** The lines of a timeline. What they are about (`of`, a document's code or a record's key) is not named in each again. */
export function Timeline({ path, of }: { path: string; of?: string }) {
  const lines = useQuery({ queryKey: ["timeline", path], queryFn: ({ signal }) => apiGet<{ items: TimelineEntry[] }>(path, signal) });
  if (lines.isPending) return <Skeletons rows={4} height={40} />;
  if (lines.isError) return <Trouble {...wordsOf(lines.error)} again={() => void lines.refetch()} />;
  return (
    <ol className="timeline">
      {lines.data.items.map((l) => (
        <li key={l.id}>
          <span className="text-2">
            <When at={l.at} />
          </span>
          <span>
            <strong>{l.who}</strong> {l.words}
            {l.record && l.record.key !== of ? (
              <>
                {" "}
                ·{" "}
                <Link href={recordHref(l.record)} className="mono">
                  {l.record.key}
                </Link>
              </>
            ) : null}
            {l.document && l.document !== of ? (
              <>
                {" "}
                ·{" "}
                <Link href={`/documents/${l.document}`} className="mono">
                  {l.document}
                </Link>
              </>
            ) : null}
          </span>
        </li>
      ))}
    </ol>
  );
}
