"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { Button, Modal } from "react-bootstrap";
import { ArrowLeft, Copy, Eye, Paperclip, Scissors } from "react-bootstrap-icons";
import { presentations } from "#core/shared/refusals.ts";
import type { DocumentAnswer } from "#server/documents/load-document.ts";
import { Dialog } from "../kit/dialog.tsx";
import { PlaceSteps } from "../arrivals/place-steps.tsx";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Link } from "../kit/link.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { useNotices } from "../kit/notices.tsx";
import { Skeletons, Trouble, When } from "../kit/parts.tsx";
import { amountText, countText, dayText, sizeText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { Viewer } from "../pages/viewer.tsx";
import { recordHref } from "../records/record-href.ts";
import { OpenFolder } from "../repository/open-folder.tsx";
import { placeStateWords } from "../repository/state-words.ts";
import { EditDialog } from "./edit-dialog.tsx";
import { Timeline } from "../timeline/timeline-dialog.tsx";

/** Words for why a placement waits or failed. */
/** Why it is not in its place, and whether the document is safe all the same. */
function placeWhyWords(why: string): string {
  if (why === "bytes-damaged") return `${presentations[why].title}. ${presentations[why].next}`;
  const title = why in presentations ? `${presentations[why as keyof typeof presentations].title}. ` : why === "" ? "" : `(${why}). `;
  return `${title}The document is safe.`;
}

/** How often a placement that is under way is looked at, ms. */
const LOOK_MS = 1500;

/** A document: the document, what is known of it, where it stands with proof, and its timeline. */
export function DocumentScreen({
  code,
  q = "",
}: {
  code: string;
  /** The search that led here: its words are marked on the pages. */
  q?: string | undefined;
}) {
  const { me, recordType, documentType } = useMe();
  const notices = useNotices();
  const router = useRouter();
  const client = useQueryClient();
  const [step, setStep] = useState(0);
  const [asking, setAsking] = useState(false);
  const [editing, setEditing] = useState(false);
  useKeys({ e: () => setEditing(true) });
  const found = useQuery({
    queryKey: ["document", code],
    queryFn: ({ signal }) => apiGet<DocumentAnswer>(`/documents/${code}`, signal),
    refetchInterval: (q) => (q.state.data?.location?.state === "waiting" || q.state.data?.location?.state === "moving" ? LOOK_MS : false),
  });
  const unfile = useMutation({
    mutationFn: () => apiSend<{ arrivalId: string }>("POST", `/documents/${code}/unfile`),
    onSuccess: ({ arrivalId }) => {
      void client.invalidateQueries();
      notices.done("Back in Arrivals");
      router.push(`/arrivals?at=${arrivalId}`);
    },
    onError: (e) => {
      setAsking(false);
      notices.wrong(e);
    },
  });
  const again = useMutation({
    mutationFn: () => apiSend("POST", `/documents/${code}/place-again`),
    onSuccess: () => void found.refetch(),
    onError: notices.wrong,
  });
  if (found.isPending) return <Skeletons rows={6} />;
  if (found.isError)
    return (
      <>
        <Where title={code} />
        <Trouble {...wordsOf(found.error)} />
      </>
    );
  const d = found.data;
  const type = documentType(d.documentType);
  const place = d.location;
  return (
    <>
      <Where title={d.title}>
        <span className="chip mono">{d.code}</span>
        <span className="chip">{d.lifecycle}</span>
      </Where>
      <Columns name="document" grows={0} step={step} sides={{ 1: { start: 400, min: 300, max: 640 } }}>
        <section className="d-flex flex-column h-100" aria-label="Document">
          <div className="bar step-back">
            <Button variant="plain" className="ms-auto" onClick={() => setStep(1)}>
              Details
            </Button>
          </div>
          <Viewer
            base={`/documents/${code}`}
            query={q}
            end={
              me.may.file ? (
                <Link href={`/bench?documents=${code}`} className="btn btn-quiet" aria-label="To the bench" title="To the bench">
                  <Scissors size={15} />
                </Link>
              ) : null
            }
          />
        </section>
        <section className="d-flex flex-column h-100" aria-label="Details" style={{ background: "var(--paper-0)" }}>
          <div className="bar step-back">
            <Button variant="quiet" onClick={() => setStep(0)}>
              <ArrowLeft /> Document
            </Button>
          </div>
          <div className="know" tabIndex={0} role="region" aria-label="Document details">
            <section>
              <div className="head">
                <h2>Clipped to</h2>
              </div>
              {d.clips.map((c, i) => (
                <Link
                  key={c.type + c.key}
                  href={recordHref(c)}
                  className={`clip-card text-reset text-decoration-none ${i === 0 ? "is-main" : ""}`}
                >
                  <Paperclip size={18} className="loop" aria-hidden="true" />
                  <span style={{ minWidth: 0 }}>
                    <strong>
                      {recordType(c.type)?.label} <span className="mono">{c.key}</span>
                    </strong>
                    <span className="d-block text-2 small">{c.title}</span>
                    {c.reach.length > 0 ? (
                      <span className="d-block text-2 small">
                        <Eye size={13} aria-hidden="true" /> also shown on{" "}
                        {c.reach.map((t) => (recordType(t)?.plural ?? t).toLowerCase()).join(", ")}
                      </span>
                    ) : null}
                    {c.note ? <span className="d-block clip-note">{c.note}</span> : null}
                  </span>
                </Link>
              ))}
            </section>
            <section>
              <div className="head">
                <h2>{d.typeSaid ? type?.label : "No document type yet"}</h2>
                <span className="text-2 small">
                  {[d.pages ? countText(d.pages, "page") : null, sizeText(d.versions.at(-1)?.bytes ?? 0)].filter(Boolean).join(" · ")}
                </span>
              </div>
              <dl className="mb-0">
                {(type?.properties ?? [])
                  .filter((p) => d.properties[p.key] !== null && d.properties[p.key] !== undefined && d.properties[p.key] !== "")
                  .map((p) => (
                    <div key={p.key} className="field-row">
                      <dt className="fw-normal text-2">{p.label}</dt>
                      <dd className={`mb-0 ${p.kind === "amount" ? "mono" : ""}`}>
                        {p.kind === "date"
                          ? dayText(String(d.properties[p.key]))
                          : p.kind === "amount"
                            ? amountText(String(d.properties[p.key]), String(d.properties["currency"] ?? ""))
                            : p.kind === "yesNo"
                              ? d.properties[p.key]
                                ? "yes"
                                : "no"
                              : String(d.properties[p.key])}
                      </dd>
                    </div>
                  ))}
                <div className="field-row mb-0">
                  <dt className="fw-normal text-2">Filed</dt>
                  <dd className="mb-0">
                    <When at={d.filedAt} /> by {d.filedBy}
                  </dd>
                </div>
              </dl>
            </section>
            {place ? (
              <section>
                <div className="head">
                  <h2>Location</h2>
                  <span
                    className={`chip ${place.state === "stored" ? "moss" : place.state === "failed" || place.state === "outOfSync" ? "rust" : "amber"}`}
                  >
                    {placeStateWords[place.state] ?? place.state}
                  </span>
                </div>
                <PlaceSteps folder={place.path.split("/").slice(0, -1)} fileName={place.path.split("/").at(-1) ?? ""} />
                {place.verifiedAt ? (
                  <p className="text-2 small mt-2 mb-1">
                    Verified <When at={place.verifiedAt} />.{" "}
                    <span className="mono" title={place.sha256 ?? ""}>
                      {place.sha256?.slice(0, 12)}
                    </span>
                  </p>
                ) : null}
                {place.state === "failed" ? (
                  <p className="problem mt-2">
                    It could not be stored. {placeWhyWords(place.why ?? "")}{" "}
                    <Button size="sm" variant="plain" onClick={() => again.mutate()} disabled={again.isPending}>
                      Try again
                    </Button>
                  </p>
                ) : null}
                {place.state === "waiting" && place.why !== null ? (
                  <p className="problem mt-2">{placeWhyWords(place.why)} It is stored automatically as soon as this is solved.</p>
                ) : null}
                {place.state === "outOfSync" ? (
                  <p className="problem mt-2">
                    {place.why === "changed" ? "The file was changed in the repository." : "The file is missing from the repository."}{" "}
                    {me.may.plan ? (
                      <Link href="/repository?view=outOfSync">Decide what to do</Link>
                    ) : (
                      "An administrator decides what to do."
                    )}
                  </p>
                ) : null}
                <Button
                  size="sm"
                  variant="plain"
                  className="me-2"
                  onClick={() =>
                    void navigator.clipboard
                      .writeText(place.address)
                      .then(() => notices.done("Location copied", { more: place.address }), notices.wrong)
                  }
                >
                  <Copy size={12} /> Copy location
                </Button>
                <OpenFolder location={place.address.slice(0, place.address.lastIndexOf("/"))} />
              </section>
            ) : null}
            {d.versions.length > 1 ? (
              <section>
                <h2 className="mb-2">Versions</h2>
                {d.versions.toReversed().map((v) => (
                  <div key={v.version} className="d-flex gap-2 py-1 border-bottom">
                    <strong>{v.version}</strong>
                    <span className="text-truncate">{v.fileName}</span>
                    <span className="text-2 ms-auto text-nowrap">
                      <When at={v.madeAt} />
                    </span>
                    <a href={`/api/v1/documents/${code}/content?version=${v.version}&download=1`}>Download</a>
                  </div>
                ))}
              </section>
            ) : null}
            <section>
              <h2 className="mb-1">Timeline</h2>
              <Timeline path={`/documents/${code}/timeline`} of={code} />
            </section>
          </div>
          <div className="foot">
            {me.may.file ? (
              <Button variant="plain" onClick={() => setAsking(true)}>
                Take back to Arrivals
              </Button>
            ) : null}
            {me.may.file ? (
              <Button variant="plain" onClick={() => setEditing(true)}>
                Change <kbd>E</kbd>
              </Button>
            ) : null}
            <a className="btn btn-plain last" href={`/api/v1/documents/${code}/content?download=1`}>
              Download
            </a>
          </div>
        </section>
      </Columns>
      {editing ? <EditDialog document={d} shown onHide={() => setEditing(false)} /> : null}
      <Dialog show={asking} onHide={() => setAsking(false)} centered size="sm" aria-labelledby="unfile-title">
        <Modal.Header closeButton>
          <h2 id="unfile-title">Take back to Arrivals?</h2>
        </Modal.Header>
        <Modal.Body>
          It is removed from {countText(d.clips.length, "record")}, and its file leaves the repository. Nothing is deleted.
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={() => setAsking(false)}>
            Cancel
          </Button>
          <Button onClick={() => unfile.mutate()} disabled={unfile.isPending}>
            Take back
          </Button>
        </Modal.Footer>
      </Dialog>
    </>
  );
}
