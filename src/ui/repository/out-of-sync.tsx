"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal, Table } from "react-bootstrap";
import { CheckCircle } from "react-bootstrap-icons";
import type { Decision, FindingAnswer } from "#server/repository/decide-findings.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble, When } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { recordHref } from "../records/record-href.ts";

const LOOK_MS = 4000;
const kindWords: Readonly<Record<FindingAnswer["kind"], { readonly chip: string; readonly about: string }>> = {
  removed: { chip: "gone", about: "The file was removed from the repository." },
  changed: { chip: "changed", about: "The file was changed." },
  new: { chip: "new", about: "This file was added there." },
  folder: { chip: "new folder", about: "This folder matches a record without a folder." },
};
const decisionWords: Readonly<Record<Decision, string>> = {
  restore: "Restore our file",
  takeOver: "Remove from its records",
  point: "Choose another file",
  version: "Accept as new version",
  take: "Accept",
  leave: "Ignore",
};
/** What can be decided about each kind, the usual one first. */
const offered: Readonly<Record<FindingAnswer["kind"], readonly Decision[]>> = {
  removed: ["restore", "point", "takeOver"],
  changed: ["version", "restore", "leave"],
  new: ["take", "leave"],
  folder: ["take", "leave"],
};
const whyWords: Readonly<Record<string, string>> = {
  "name-taken": "one of our documents has that name",
  "too-large": "it is larger than allowed",
  "no-space": "not enough storage at the moment",
  "no-record": "it is not in a record's folder",
};

/** Everything in the repository that is not as we know it, with what can be done about it, one by one or many at once. */
export function OutOfSync() {
  const notices = useNotices();
  const client = useQueryClient();
  const [ticked, setTicked] = useState<ReadonlySet<number>>(new Set());
  const [pointing, setPointing] = useState<FindingAnswer | null>(null);
  const [path, setPath] = useState("");
  const found = useQuery({
    queryKey: ["findings", "open"],
    queryFn: ({ signal }) =>
      apiGet<{ items: FindingAnswer[]; total: number; kinds: Record<string, number> }>("/repository/findings?limit=200", signal),
    refetchInterval: LOOK_MS,
  });
  const decide = useMutation({
    mutationFn: (wish: { ids: readonly number[]; decision: Decision; path?: string }) =>
      apiSend<{ done: number; failures: readonly { what: string; why: string }[] }>("POST", "/repository/findings/decide", wish),
    onSuccess: ({ done, failures }, wish) => {
      if (done > 0) notices.done(`${countText(done, "decision")} carried out`, { more: decisionWords[wish.decision] });
      for (const f of failures.slice(0, 3)) notices.wrong(new Error(`${f.what}: ${f.why}`));
      setTicked(new Set());
      setPointing(null);
      void client.invalidateQueries();
    },
    onError: notices.wrong,
  });
  if (found.isPending) return <Skeletons rows={4} />;
  if (found.isError) return <Trouble {...wordsOf(found.error)} />;
  const chosen = found.data.items.filter((f) => ticked.has(f.id));
  const shared =
    chosen.length === 0
      ? []
      : (["restore", "version", "take", "takeOver", "leave"] as const).filter((d) => chosen.every((f) => offered[f.kind].includes(d)));
  if (found.data.items.length === 0)
    return (
      <Empty icon={<CheckCircle size={28} />} title="Nothing is out of sync">
        All files are as filed. Files added, changed or removed in the repository are listed here when they need a decision.
      </Empty>
    );
  return (
    <div className="d-flex flex-column flex-grow-1" style={{ minHeight: 0 }}>
      <div className="bar">
        <span className="text-2">
          {chosen.length > 0 ? `${chosen.length} selected` : countText(found.data.total, "thing") + " to decide"}
        </span>
        <div className="ms-auto d-flex gap-2">
          {shared.map((d) => (
            <Button
              key={d}
              size="sm"
              variant="plain"
              disabled={decide.isPending}
              onClick={() => decide.mutate({ ids: chosen.map((f) => f.id), decision: d })}
            >
              {decisionWords[d]}
            </Button>
          ))}
        </div>
      </div>
      <div className="scroll flex-grow-1" tabIndex={0} role="region" aria-label="Out of sync">
        <Table className="mb-0">
          <thead>
            <tr>
              <th style={{ width: 36 }}>
                <Form.Check
                  aria-label="Select all"
                  checked={chosen.length === found.data.items.length}
                  onChange={(e) => setTicked(e.target.checked ? new Set(found.data.items.map((f) => f.id)) : new Set())}
                />
              </th>
              <th>What</th>
              <th>Where</th>
              <th>Found</th>
              <th>Action</th>
            </tr>
          </thead>
          <tbody>
            {found.data.items.map((f) => (
              <tr key={f.id} className={ticked.has(f.id) ? "is-chosen" : ""}>
                <td>
                  <Form.Check
                    aria-label={`Select ${f.path}`}
                    checked={ticked.has(f.id)}
                    onChange={() =>
                      setTicked((now) => {
                        const next = new Set(now);
                        if (!next.delete(f.id)) next.add(f.id);
                        return next;
                      })
                    }
                  />
                </td>
                <td>
                  <span className={`chip ${f.kind === "removed" || f.kind === "changed" ? "rust" : "amber"} me-2`}>
                    {kindWords[f.kind].chip}
                  </span>
                  {f.document ? <Link href={`/documents/${f.document.code}`}>{f.document.title}</Link> : null}
                  {!f.document && f.record ? (
                    <Link href={recordHref(f.record)}>
                      {f.record.key} {f.record.title}
                    </Link>
                  ) : null}
                  <div className="text-2 small">
                    {kindWords[f.kind].about} {f.why ? (whyWords[f.why] ?? "") : ""}
                  </div>
                </td>
                <td className="text-break">{f.path.split("/").join(" › ")}</td>
                <td className="text-nowrap">
                  <When at={f.foundAt} />
                </td>
                <td>
                  <div className="d-flex gap-1 flex-wrap">
                    {offered[f.kind].map((d) => (
                      <Button
                        key={d}
                        size="sm"
                        variant="plain"
                        disabled={decide.isPending}
                        onClick={() => {
                          if (d === "point") {
                            setPath(f.path.slice(0, f.path.lastIndexOf("/") + 1));
                            setPointing(f);
                          } else decide.mutate({ ids: [f.id], decision: d });
                        }}
                      >
                        {decisionWords[d]}
                      </Button>
                    ))}
                  </div>
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </div>
      <Dialog show={pointing !== null} onHide={() => setPointing(null)} centered aria-labelledby="point-title">
        <Form
          onSubmit={(e) => {
            e.preventDefault();
            if (pointing) decide.mutate({ ids: [pointing.id], decision: "point", path });
          }}
        >
          <Modal.Header closeButton>
            <h2 id="point-title">Which file replaces it?</h2>
          </Modal.Header>
          <Modal.Body>
            <p className="text-2">
              {pointing?.document?.title}. An identical file only changes the location; a different one becomes a new version.
            </p>
            <Form.Label htmlFor="point-path">Path in the repository</Form.Label>
            <Form.Control id="point-path" autoFocus value={path} onChange={(e) => setPath(e.target.value)} />
          </Modal.Body>
          <Modal.Footer>
            <Button variant="plain" onClick={() => setPointing(null)}>
              Cancel
            </Button>
            <Button type="submit" disabled={decide.isPending || path.trim() === ""}>
              Use this file
            </Button>
          </Modal.Footer>
        </Form>
      </Dialog>
    </div>
  );
}
