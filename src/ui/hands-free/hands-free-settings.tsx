"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal, Table } from "react-bootstrap";
import { handsFreeSettingsSchema } from "#core/hands-free/hands-free-rule.ts";
import { neededFor } from "#core/hands-free/precision-bound.ts";
import type { HandsFreeAnswer } from "#server/hands-free/manage.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, apiSend } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { percent } from "./words.ts";

/** Hands-free filing by queue and document type: what is to be expected of it, and the switch. */
export function HandsFreeSettings() {
  const { me, documentType } = useMe();
  const client = useQueryClient();
  const notices = useNotices();
  const [editing, setEditing] = useState<HandsFreeAnswer | null>(null);
  const known = useQuery({
    queryKey: ["handsFree"],
    queryFn: ({ signal }) => apiGet<{ items: HandsFreeAnswer[]; historyMin: number }>("/hands-free", signal),
  });
  const save = useMutation({
    mutationFn: (change: { queue: string; documentType: string; isOn: boolean; asked: number; heldBack: number }) =>
      apiSend<{ isOn: boolean }>("PUT", "/hands-free", change),
    onSuccess: ({ isOn }) => {
      setEditing(null);
      notices.done(
        isOn ? "Hands-free filing is on" : "Hands-free filing is off",
        isOn ? { more: "From the next paper on that is ready." } : {},
      );
      void client.invalidateQueries({ queryKey: ["handsFree"] });
    },
    onError: notices.wrong,
  });
  if (!known.data) return null;
  const queueLabel = (key: string): string => me.queues.find((q) => q.key === key)?.label ?? key;
  return (
    <section className="mb-5" aria-labelledby="hands-free-title">
      <div className="d-flex align-items-baseline gap-3">
        <h2 id="hands-free-title" className="mb-1">
          Hands-free filing
        </h2>
        <Link href="/arrivals/hands-free">What was filed so</Link>
      </div>
      <p className="text-2">
        Papers that are sure, complete and without a clash are filed without a person; a sample is held back for one, who is not told what
        the program would do. It measures itself by that sample and by what is put right later, and switches itself off when it is not good
        enough any more.
      </p>
      {known.data.items.length === 0 ? (
        <p className="text-2">Nothing was filed by people yet. File some papers first: what they decide is what this is measured by.</p>
      ) : (
        <Table className="align-middle">
          <thead>
            <tr>
              <th>Queue</th>
              <th>Document type</th>
              <th className="text-end">Decided by people</th>
              <th className="text-end">Would be filed</th>
              <th className="text-end">Right</th>
              <th className="text-end" title="In 19 cases of 20 the truth is above this">
                At least
              </th>
              <th>State</th>
              <th>
                <span className="visually-hidden">Set</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {known.data.items.map((h) => (
              <tr key={`${h.queue} ${h.documentType}`}>
                <td>{queueLabel(h.queue)}</td>
                <td>{documentType(h.documentType)?.label ?? h.documentType}</td>
                <td className="text-end num">{h.expected.checked}</td>
                <td className="text-end num">{percent(h.expected.share)}</td>
                <td className="text-end num">
                  {h.expected.right} of {h.expected.wouldFile}
                </td>
                <td className="text-end num">{h.expected.wouldFile === 0 ? "" : percent(h.expected.bound)}</td>
                <td>
                  {h.isOn ? (
                    <span className="chip moss">on, {percent(h.asked)} asked</span>
                  ) : h.offWhy ? (
                    <span
                      className="chip rust"
                      title={`${h.offWhy.wrong} of ${h.offWhy.of} were wrong: at least ${percent(h.offWhy.bound)} right`}
                    >
                      switched itself off {dayText(h.offWhy.at)}
                    </span>
                  ) : (
                    <span className="chip">
                      {h.may === "yes" ? "off" : h.may === "too-few" ? "off, too few papers" : "off, not good enough"}
                    </span>
                  )}
                  {h.filed > 0 ? <span className="text-2 small ms-2">{countText(h.filed, "paper")} filed</span> : null}
                  {h.waiting > 0 ? <span className="text-2 small ms-2">{h.waiting} held back</span> : null}
                </td>
                <td className="text-end">
                  {h.isOn ? (
                    <Button
                      size="sm"
                      variant="plain"
                      disabled={save.isPending}
                      onClick={() =>
                        save.mutate({ queue: h.queue, documentType: h.documentType, isOn: false, asked: h.asked, heldBack: h.heldBack })
                      }
                    >
                      Switch off
                    </Button>
                  ) : (
                    <Button size="sm" variant="plain" onClick={() => setEditing(h)}>
                      Set …
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      )}
      {editing ? (
        <SwitchDialog
          of={editing}
          label={`${documentType(editing.documentType)?.plural ?? editing.documentType} in ${queueLabel(editing.queue)}`}
          historyMin={known.data.historyMin}
          isBusy={save.isPending}
          onHide={() => setEditing(null)}
          onSave={(isOn, asked, heldBack) =>
            save.mutate({ queue: editing.queue, documentType: editing.documentType, isOn, asked, heldBack })
          }
        />
      ) : null}
    </section>
  );
}

/** Says how well it has to go before it is switched on, and what is to be expected. */
function SwitchDialog({
  of,
  label,
  historyMin,
  isBusy,
  onHide,
  onSave,
}: {
  of: HandsFreeAnswer;
  label: string;
  historyMin: number;
  isBusy: boolean;
  onHide: () => void;
  onSave: (isOn: boolean, asked: number, heldBack: number) => void;
}) {
  const [asked, setAsked] = useState(String(Math.round(of.asked * 1000) / 10));
  const [heldBack, setHeldBack] = useState(String(Math.round(of.heldBack * 1000) / 10));
  const typed = handsFreeSettingsSchema.safeParse({ asked: Number(asked) / 100, heldBack: Number(heldBack) / 100 });
  const { expected } = of;
  const tooFew = expected.wouldFile < historyMin;
  const isGood = typed.success && !tooFew && expected.bound >= typed.data.asked;
  return (
    <Dialog show onHide={onHide} aria-labelledby="switch-title">
      <Modal.Header closeButton>
        <Modal.Title as="h2" id="switch-title" style={{ fontSize: "1.0625rem" }}>
          {label}
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p>
          Of the last {countText(expected.checked, "paper")} that people decided on, the program would have filed{" "}
          <strong>{percent(expected.share)}</strong>, {expected.right} of {expected.wouldFile} right. So in 19 cases of 20 at least{" "}
          <strong>{percent(expected.bound)}</strong> of what it files will be right.
        </p>
        <div className="field-row">
          <label htmlFor="hands-asked">At least right</label>
          <div className="d-flex align-items-center gap-2">
            <Form.Control
              id="hands-asked"
              size="sm"
              className="mono"
              style={{ width: 90 }}
              inputMode="decimal"
              value={asked}
              isInvalid={!typed.success}
              onChange={(e) => setAsked(e.target.value)}
            />
            <span className="text-2">per cent, 50 to 99.9</span>
          </div>
        </div>
        <div className="field-row">
          <label htmlFor="hands-held">Held back</label>
          <div className="d-flex align-items-center gap-2">
            <Form.Control
              id="hands-held"
              size="sm"
              className="mono"
              style={{ width: 90 }}
              inputMode="decimal"
              value={heldBack}
              isInvalid={!typed.success}
              onChange={(e) => setHeldBack(e.target.value)}
            />
            <span className="text-2">per cent, 1 to 50, for a person</span>
          </div>
        </div>
        {tooFew ? (
          <p className="problem mb-0">
            At least {historyMin} papers that it would have filed have to be confirmed first; there are {expected.wouldFile}.
          </p>
        ) : !isGood && typed.success ? (
          <p className="problem mb-0">
            What was confirmed does not bear that out yet. Without an error it takes {neededFor(typed.data.asked)} papers.
          </p>
        ) : null}
      </Modal.Body>
      <Modal.Footer>
        {of.offWhy ? (
          <Button
            variant="plain"
            disabled={isBusy || !typed.success}
            onClick={() => typed.success && onSave(false, typed.data.asked, typed.data.heldBack)}
          >
            Leave it off
          </Button>
        ) : (
          <Button variant="plain" onClick={onHide}>
            Cancel
          </Button>
        )}
        <Button disabled={!isGood || isBusy} onClick={() => typed.success && onSave(true, typed.data.asked, typed.data.heldBack)}>
          Switch on
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
