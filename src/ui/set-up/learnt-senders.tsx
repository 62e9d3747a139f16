"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useRef, useState } from "react";
import { Button, Form, Modal, Table } from "react-bootstrap";
import type { LearntDetail, LearntSender } from "#server/matching/learnt.ts";
import { Dialog } from "../kit/dialog.tsx";
import { readingWords } from "../arrivals/reading-words.ts";
import { apiGet, apiSend, queryOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { When } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";

const relationWords: Readonly<Record<string, string>> = { same: "right after", left: "to the right of", above: "below" };

/** What was learnt of senders from confirmed documents: to look at, to forget, to take out and in as an open file. */
export function LearntSenders() {
  const notices = useNotices();
  const client = useQueryClient();
  const [typed, setTyped] = useState("");
  const [shown, setShown] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const q = useDeferredValue(typed.trim());
  const senders = useQuery({
    queryKey: ["learnt", q],
    queryFn: ({ signal }) => apiGet<{ items: LearntSender[] }>(`/settings/learnt${queryOf({ q })}`, signal),
    placeholderData: (before) => before,
  });
  const bring = useMutation({
    mutationFn: async (chosen: File) =>
      apiSend<{ taken: number; passedOver: number }>("POST", "/settings/learnt-file", JSON.parse(await chosen.text())),
    onSuccess: (answer) => {
      notices.done(
        `${countText(answer.taken, "place")} imported`,
        answer.passedOver > 0 ? { more: `${answer.passedOver} already exist or belong to documents that are not here.` } : {},
      );
      void client.invalidateQueries({ queryKey: ["learnt"] });
    },
    onError: notices.wrong,
  });
  if (!senders.data) return null;
  const { items } = senders.data;
  return (
    <section className="mb-5" aria-labelledby="learnt-title">
      <h2 id="learnt-title" className="mb-1">
        Learnt layouts
      </h2>
      <p className="text-2">
        {items.length === 0 && q === ""
          ? "Nothing yet. When documents are filed, the positions of number, dates and amounts are learnt per sender."
          : "Positions of number, dates and amounts per sender, learnt from filed documents."}
      </p>
      <div className="d-flex gap-2 mb-2" style={{ maxWidth: 720 }}>
        <Form.Control
          size="sm"
          type="search"
          placeholder="Find a sender"
          aria-label="Find a sender"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <a className="btn btn-sm btn-plain text-nowrap" href="/api/v1/settings/learnt-file" download="layouts.json">
          Export
        </a>
        <Button size="sm" variant="plain" className="text-nowrap" disabled={bring.isPending} onClick={() => file.current?.click()}>
          Import
        </Button>
        <input
          ref={file}
          type="file"
          accept="application/json"
          hidden
          aria-label="Layout file"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) bring.mutate(chosen);
            e.target.value = "";
          }}
        />
      </div>
      {items.length > 0 ? (
        <div style={{ maxWidth: 720, maxHeight: 320, overflowY: "auto" }} tabIndex={0} role="region" aria-label="Learnt senders">
          <Table size="sm" className="mb-0">
            <thead>
              <tr>
                <th>Sender</th>
                <th className="text-end">Documents</th>
                <th className="text-end">Fields</th>
                <th className="text-end">Read correctly without help</th>
                <th>Last used</th>
              </tr>
            </thead>
            <tbody>
              {items.map((s) => (
                <tr key={s.sender}>
                  <td>
                    <button
                      type="button"
                      className="btn btn-quiet p-0 text-decoration-underline text-start"
                      onClick={() => setShown(s.sender)}
                    >
                      {s.name}
                    </button>
                  </td>
                  <td className="text-end mono">{s.papers}</td>
                  <td className="text-end mono">{s.fields}</td>
                  <td className="text-end mono">{s.right === null ? "–" : `${Math.round(s.right * 100)} %`}</td>
                  <td className="text-2">
                    <When at={s.lastAt} />
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        </div>
      ) : null}
      {shown ? <OneSender sender={shown} onHide={() => setShown(null)} /> : null}
    </section>
  );
}

function OneSender({ sender, onHide }: { sender: string; onHide: () => void }) {
  const notices = useNotices();
  const client = useQueryClient();
  const path = `/settings/learnt/${encodeURIComponent(sender)}`;
  const detail = useQuery({ queryKey: ["learnt", "of", sender], queryFn: ({ signal }) => apiGet<LearntDetail>(path, signal) });
  const forget = useMutation({
    mutationFn: () => apiSend("POST", `${path}/forget`),
    onSuccess: () => {
      notices.done(`Learnt layouts of ${detail.data?.name ?? "it"} was deleted`, {
        more: "It is learnt again from newly filed documents.",
      });
      void client.invalidateQueries({ queryKey: ["learnt"] });
      onHide();
    },
    onError: notices.wrong,
  });
  return (
    <Dialog show onHide={onHide} aria-labelledby="learnt-of" size="lg">
      <Modal.Header closeButton>
        <Modal.Title id="learnt-of" as="h2">
          {detail.data?.name ?? "…"}
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {detail.data ? (
          <>
            <Table size="sm">
              <thead>
                <tr>
                  <th>Field</th>
                  <th>Position</th>
                  <th className="text-end">Documents</th>
                </tr>
              </thead>
              <tbody>
                {detail.data.places.map((p, i) => (
                  <tr key={i}>
                    <td>{new Map<string, string>(Object.entries(readingWords)).get(p.field) ?? p.field}</td>
                    <td>
                      {p.label === null || p.relation === null
                        ? "always at the same position"
                        : `${relationWords[p.relation] ?? p.relation} “${p.label}”`}
                      {p.page === "last" ? ", on the last page" : ""}
                    </td>
                    <td className="text-end mono">{p.times}</td>
                  </tr>
                ))}
              </tbody>
            </Table>
            <p className="text-2 mb-1">From</p>
            <ul className="list-unstyled mb-0" style={{ columns: 2 }}>
              {detail.data.from.map((d) => (
                <li key={d.code}>
                  <a href={`/documents/${d.code}`}>{d.title}</a>
                </li>
              ))}
            </ul>
          </>
        ) : null}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onHide}>
          Close
        </Button>
        <Button variant="plain" disabled={!detail.data || forget.isPending} onClick={() => forget.mutate()}>
          Delete
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
