"use client";
import { useMutation, useQuery } from "@tanstack/react-query";
import { Button, Modal } from "react-bootstrap";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { Filed } from "#server/documents/file-away.ts";
import type { Compared } from "#server/matching/compare-papers.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, apiSend, queryOf, wordsOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { Skeletons, Trouble } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { Viewer } from "../pages/viewer.tsx";

/** Two documents side by side with what differs, and what can be done about it. */
export function CompareDialog({
  arrival,
  other,
  onHide,
  onSetAside,
  onVersion,
  onApart,
}: {
  arrival: ArrivalAnswer;
  /** A document's code or an arrival's id. */
  other: string;
  onHide: () => void;
  onSetAside: (reason: string) => void;
  /** It was filed as the next version. */
  onVersion: (filed: Filed) => void;
  /** It is another document, and nothing is said of that any more. */
  onApart: () => void;
}) {
  const notices = useNotices();
  const isDocument = other.startsWith("AC-");
  const compared = useQuery({
    queryKey: ["compare", arrival.id, other],
    queryFn: ({ signal }) => apiGet<Compared>(`/arrivals/${arrival.id}/compare${queryOf({ with: other })}`, signal),
  });
  const version = useMutation({
    mutationFn: () => apiSend<Filed>("POST", `/arrivals/${arrival.id}/file-as-version`, { document: other }),
    onSuccess: onVersion,
    onError: notices.wrong,
  });
  const apart = useMutation({
    mutationFn: () =>
      apiSend("POST", `/arrivals/${arrival.id}/tell-apart`, { other: isDocument ? other : (compared.data?.there.name ?? "") }),
    onSuccess: onApart,
    onError: notices.wrong,
  });
  const data = compared.data;
  const same = data && data.onlyHere.length === 0 && data.onlyThere.length === 0;
  return (
    <Dialog show onHide={onHide} fullscreen aria-labelledby="compare-title">
      <Modal.Header closeButton>
        <h2 id="compare-title">Is it the same document?</h2>
      </Modal.Header>
      <Modal.Body className="p-0 d-flex" style={{ minHeight: 0 }}>
        {compared.isPending ? <Skeletons rows={3} /> : null}
        {compared.isError ? <Trouble {...wordsOf(compared.error)} /> : null}
        {data
          ? [data.here, data.there].map((side, i) => (
              <section key={side.base} className="d-flex flex-column flex-fill border-end" style={{ minWidth: 0 }} aria-label={side.name}>
                <div className="px-3 py-2 border-bottom">
                  <div className="d-flex gap-2">
                    <strong className="text-truncate">{side.name}</strong>
                    <span className="text-2 ms-auto text-nowrap">{side.pages === null ? "" : countText(side.pages, "page")}</span>
                  </div>
                  <div className="small">
                    {same ? (
                      <span className="text-2">Both have the same text.</span>
                    ) : (
                      <>
                        <span className="text-2">Only here: </span>
                        {(i === 0 ? data.onlyHere : data.onlyThere).join(" · ") || "nothing"}
                      </>
                    )}
                  </div>
                </div>
                <Viewer base={side.base} />
              </section>
            ))
          : null}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={() => apart.mutate()} disabled={apart.isPending}>
          Keep both
        </Button>
        {isDocument ? (
          <Button variant="plain" onClick={() => version.mutate()} disabled={version.isPending}>
            File as the next version
          </Button>
        ) : null}
        <Button onClick={() => onSetAside(isDocument ? `Duplicate of ${other}` : "Duplicate of a waiting document")}>
          Set this document aside
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
