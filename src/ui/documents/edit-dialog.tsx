"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { Paperclip, X } from "react-bootstrap-icons";
import type { FieldValues } from "#core/records/record-type.ts";
import type { ChangedDocument } from "#server/documents/change-document.ts";
import type { DocumentAnswer } from "#server/documents/load-document.ts";
import type { ShelfAnswer } from "#server/repository/shelves.ts";
import { Dialog } from "../kit/dialog.tsx";
import { sameRecord } from "../arrivals/clip-to.tsx";
import { PlaceSteps } from "../arrivals/place-steps.tsx";
import { FieldInput } from "../arrivals/field-input.tsx";
import { apiGet, ApiProblem, apiSend, wordsOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";
import { folderHref } from "../repository/folder-href.ts";
import { ReachChoice } from "../reach/reach-choice.tsx";
import { ReachQuestion } from "../reach/reach-question.tsx";
import { LookUp } from "../records/look-up.tsx";
import { MoveQuestion } from "./move-question.tsx";

/** A clip as it is being changed; a new one has the reach of the document type until one is chosen. */
type Clip = Omit<DocumentAnswer["clips"][number], "reach"> & { readonly reach?: readonly string[] };

const isWide = (error: Error): boolean => error instanceof ApiProblem && error.code === "reaches-many";

const stepsOf = (path: string): { readonly folder: readonly string[]; readonly fileName: string } => {
  const steps = path.split("/");
  return { folder: steps.slice(0, -1), fileName: steps.at(-1) ?? "" };
};

/** Title, type, properties, records and shelves of a document. What that moves in the repository is shown before it happens. */
export function EditDialog({ document: d, shown, onHide }: { document: DocumentAnswer; shown: boolean; onHide: () => void }) {
  const { me, documentType, recordType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  // Null while the title follows the pattern of its type.
  const [title, setTitle] = useState<string | null>(d.titleSaid ? d.title : null);
  const [typeKey, setTypeKey] = useState(d.documentType);
  const [values, setValues] = useState<FieldValues>(d.properties);
  const [clips, setClips] = useState<readonly Clip[]>(d.clips);
  const [question, setQuestion] = useState<ChangedDocument["move"]>(null);
  const type = documentType(typeKey);
  const shelves = useQuery({
    queryKey: ["shelves"],
    enabled: shown,
    queryFn: ({ signal }) => apiGet<{ items: ShelfAnswer[] }>("/repository/shelves", signal),
  });
  const [wide, setWide] = useState(false);
  const body = (dryRun: boolean, agreed: boolean) => ({
    title,
    documentType: typeKey,
    properties: Object.fromEntries(Object.entries(values).filter(([key]) => type?.properties.some((p) => p.key === key))),
    clips: clips.map((c) => ({
      company: c.company,
      type: c.type,
      key: c.key,
      ...(c.note == null ? {} : { note: c.note }),
      ...(c.reach ? { reach: c.reach } : {}),
      ...(c.section ? { section: c.section } : {}),
    })),
    ...(agreed ? { showsOnMany: true } : {}),
    dryRun,
  });
  const save = useMutation({
    mutationFn: (agreed: boolean) => apiSend<ChangedDocument>("PATCH", `/documents/${d.code}`, body(false, agreed)),
    onSuccess: (changed) => {
      setQuestion(null);
      setWide(false);
      onHide();
      void client.invalidateQueries();
      notices.done(
        "Saved",
        changed.move ? { more: `Stored in ${changed.move.to.split("/").join(" › ")}`, href: folderHref(changed.move.to, true) } : {},
      );
    },
    onError: (error) => {
      setQuestion(null);
      setWide(isWide(error));
    },
  });
  const isChanged = title !== (d.titleSaid ? d.title : null) || typeKey !== d.documentType || values !== d.properties || clips !== d.clips;
  const asked = useDeferredValue(body(true, true));
  const would = useQuery<ChangedDocument>({
    queryKey: ["change-preview", d.code, asked],
    enabled: shown && isChanged && question === null && !save.isPending,
    retry: false,
    placeholderData: (before) => before,
    queryFn: ({ signal }) => apiSend<ChangedDocument>("PATCH", `/documents/${d.code}`, asked, signal),
  });
  const shownTitle = title ?? (isChanged ? (would.data?.title ?? d.title) : d.title);
  const ask = useMutation({
    mutationFn: (agreed: boolean) => apiSend<ChangedDocument>("PATCH", `/documents/${d.code}`, body(true, agreed)),
    onSuccess: (would, agreed) => {
      setWide(false);
      if (would.move) setQuestion(would.move);
      else save.mutate(agreed);
    },
    onError: (error) => setWide(isWide(error)),
  });
  const shelve = useMutation({
    mutationFn: ({ shelf, on }: { shelf: number; on: boolean }) => apiSend("POST", `/documents/${d.code}/shelf`, { shelf, on }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["document", d.code] });
      notices.done("Shelf changed");
    },
    onError: notices.wrong,
  });
  const go = (agreed: boolean): void => (me.preferences.asksBeforeMove ? ask : save).mutate(agreed);
  const error = wide ? null : (ask.error ?? save.error);
  const wrong = (path: string): string | null =>
    error instanceof ApiProblem ? (error.errors.find((e) => e.path === path)?.message ?? null) : null;
  return (
    <>
      <Dialog show={shown && question === null && !wide} onHide={onHide} centered size="lg" aria-labelledby="edit-title">
        <Form
          onSubmit={(e) => {
            e.preventDefault();
            go(false);
          }}
        >
          <Modal.Header closeButton>
            <h2 id="edit-title">Change {d.code}</h2>
          </Modal.Header>
          <Modal.Body>
            {error ? (
              <p className="problem" role="alert">
                {wordsOf(error).title}. {wordsOf(error).next}
              </p>
            ) : null}
            <Form.Group controlId="edit-document-title" className="mb-3">
              <Form.Label>Title</Form.Label>
              <Form.Control value={shownTitle} onChange={(e) => setTitle(e.target.value || null)} maxLength={200} />
              {title !== null && title !== d.title ? (
                <Form.Text>Written by hand. Clear the field to use the title of the document type.</Form.Text>
              ) : null}
            </Form.Group>
            <Form.Group controlId="edit-type" className="mb-3">
              <Form.Label>Document type</Form.Label>
              <Form.Select value={typeKey} onChange={(e) => setTypeKey(e.target.value)}>
                {me.documentTypes.map((t) => (
                  <option key={t.key} value={t.key}>
                    {t.label}
                  </option>
                ))}
              </Form.Select>
            </Form.Group>
            <div className="know p-0 mb-3" style={{ overflow: "visible" }}>
              {(type?.properties ?? []).map((p) => (
                <div key={p.key} className="field-row">
                  <label htmlFor={`edit-${p.key}`}>{p.label}</label>
                  <div>
                    <FieldInput
                      id={`edit-${p.key}`}
                      field={p}
                      value={values[p.key] ?? null}
                      wrong={wrong(`properties.${p.key}`) !== null}
                      onChange={(v) => setValues((now) => ({ ...now, [p.key]: v }))}
                    />
                    {wrong(`properties.${p.key}`) ? <div className="problem">{wrong(`properties.${p.key}`)}</div> : null}
                  </div>
                </div>
              ))}
            </div>
            <h3 className="h6">Clipped to</h3>
            {clips.map((c, i) => (
              <div key={c.type + c.key} className={`clip-card ${i === 0 ? "is-main" : ""}`}>
                <Paperclip size={18} className="loop" aria-hidden="true" />
                <span style={{ minWidth: 0 }} className="flex-grow-1">
                  <strong>
                    {recordType(c.type)?.label} <span className="mono">{c.key}</span>
                  </strong>
                  <span className="d-block text-2 small">{c.title}</span>
                  <ReachChoice
                    documentType={typeKey}
                    clip={c}
                    onChange={(reach) => setClips((now) => now.map((x) => (sameRecord(x, c) ? { ...x, reach } : x)))}
                  />
                  <Form.Control
                    size="sm"
                    className="mt-1"
                    aria-label={`Note on ${c.key}`}
                    placeholder="Note on this record"
                    maxLength={500}
                    value={c.note ?? ""}
                    onChange={(e) => setClips((now) => now.map((x) => (sameRecord(x, c) ? { ...x, note: e.target.value } : x)))}
                  />
                </span>
                <span className="d-flex">
                  {i > 0 ? (
                    <Button size="sm" variant="quiet" onClick={() => setClips([c, ...clips.filter((x) => x !== c)])}>
                      Decides the location
                    </Button>
                  ) : null}
                  {clips.length > 1 ? (
                    <Button size="sm" variant="quiet" aria-label={`Remove ${c.key}`} onClick={() => setClips(clips.filter((x) => x !== c))}>
                      <X />
                    </Button>
                  ) : null}
                </span>
              </div>
            ))}
            <LookUp
              company={d.company}
              near={clips.find((c) => recordType(c.type)?.kind === "standing")}
              placeholder="Clip to another record"
              onChoose={(hit) =>
                setClips((now) =>
                  now.some((c) => c.type === hit.type && c.key === hit.key)
                    ? now
                    : [...now, { company: hit.company, type: hit.type, key: hit.key, title: hit.title, section: null, note: null }],
                )
              }
            />
            {shelves.data && shelves.data.items.length > 0 ? (
              <>
                <h3 className="h6 mt-3">On shelves</h3>
                {shelves.data.items
                  .filter((s) => s.company === d.company)
                  .map((s) => (
                    <Form.Check
                      key={s.id}
                      id={`shelf-${s.id}`}
                      label={s.path.split("/").join(" › ")}
                      checked={d.shelves.includes(s.id)}
                      disabled={shelve.isPending}
                      onChange={(e) => shelve.mutate({ shelf: s.id, on: e.target.checked })}
                    />
                  ))}
              </>
            ) : null}
          </Modal.Body>
          {isChanged && would.data && d.location ? (
            <div className="will-be px-3 py-2" aria-live="polite">
              <div className="text-2 mb-1">{would.data.move ? "Will move to" : "Stays in"}</div>
              <PlaceSteps {...stepsOf(would.data.move?.to ?? d.location.path)} />
            </div>
          ) : null}
          <Modal.Footer>
            <Button variant="plain" onClick={onHide}>
              Cancel
            </Button>
            <Button type="submit" disabled={ask.isPending || save.isPending || shownTitle.trim() === ""}>
              Save
            </Button>
          </Modal.Footer>
        </Form>
      </Dialog>
      <ReachQuestion
        about={wide ? { documentType: typeKey, clips } : null}
        isBusy={ask.isPending || save.isPending}
        onShow={() => go(true)}
        onOwnOnly={() => {
          setClips((now) => now.map((c) => ({ ...c, reach: [] })));
          setWide(false);
        }}
        onHide={() => setWide(false)}
      />
      <MoveQuestion
        move={question ? { from: question.from, to: question.to, documents: 1, isFile: true } : null}
        isBusy={save.isPending}
        onMove={() => save.mutate(true)}
        onHide={() => setQuestion(null)}
      />
    </>
  );
}
