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
  removed: { chip: "gone", about: "Its file was removed from the repository." },
  changed: { chip: "changed", about: "Somebody changed the file." },
  new: { chip: "new", about: "Somebody put this file there." },
  folder: { chip: "new folder", about: "This folder fits a record that has none." },
};
const decisionWords: Readonly<Record<Decision, string>> = {
  restore: "Put ours back",
  takeOver: "Take it off its records",
  point: "Another file is it",
  version: "Take as a new version",
  take: "Take it",
  leave: "Leave it",
};
/** What can be decided about each kind, the usual one first. */
const offered: Readonly<Record<FindingAnswer["kind"], readonly Decision[]>> = {
  removed: ["restore", "point", "takeOver"],
  changed: ["version", "restore", "leave"],
  new: ["take", "leave"],
  folder: ["take", "leave"],
};
const whyWords: Readonly<Record<string, string>> = {
  "name-taken": "a paper of ours has that name",
  "too-large": "it is larger than is taken in",
  "no-space": "there is no room for it at the moment",
  "no-record": "it stands in no record's folder",
};

/** Everything in the repository that is not as we know it, with what can be done about it, one by one or many at once. */
export function Adrift() {
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
      <Empty icon={<CheckCircle size={28} />} title="Nothing is adrift">
        Every file stands where it was placed. What somebody puts, changes or removes in the repository shows up here when it needs a
        decision.
      </Empty>
    );
  return (
    <div className="d-flex flex-column flex-grow-1" style={{ minHeight: 0 }}>
      <div className="bar">
        <span className="text-2">
          {chosen.length > 0 ? `${chosen.length} chosen` : countText(found.data.total, "thing") + " to decide"}
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
      <div className="scroll flex-grow-1" tabIndex={0} role="region" aria-label="Adrift">
        <Table className="mb-0">
          <thead>
            <tr>
              <th style={{ width: 36 }}>
                <Form.Check
                  aria-label="Choose all"
                  checked={chosen.length === found.data.items.length}
                  onChange={(e) => setTicked(e.target.checked ? new Set(found.data.items.map((f) => f.id)) : new Set())}
                />
              </th>
              <th>What</th>
              <th>Where</th>
              <th>Found</th>
              <th>What to do</th>
            </tr>
          </thead>
          <tbody>
            {found.data.items.map((f) => (
              <tr key={f.id} className={ticked.has(f.id) ? "is-chosen" : ""}>
                <td>
                  <Form.Check
                    aria-label={`Choose ${f.path}`}
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
            <h2 id="point-title">Which file is it?</h2>
          </Modal.Header>
          <Modal.Body>
            <p className="text-2">
              {pointing?.document?.title}. With the same bytes it is only elsewhere; with others it becomes a new version.
            </p>
            <Form.Label htmlFor="point-path">Its place below the repository</Form.Label>
            <Form.Control id="point-path" autoFocus value={path} onChange={(e) => setPath(e.target.value)} />
          </Modal.Body>
          <Modal.Footer>
            <Button variant="plain" onClick={() => setPointing(null)}>
              Cancel
            </Button>
            <Button type="submit" disabled={decide.isPending || path.trim() === ""}>
              This is it
            </Button>
          </Modal.Footer>
        </Form>
      </Dialog>
    </div>
  );
}
