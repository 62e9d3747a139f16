"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal, Table } from "react-bootstrap";
import { automaticFilingSettingsSchema } from "#core/automatic-filing/automatic-filing-rule.ts";
import { neededFor } from "#core/automatic-filing/precision-bound.ts";
import type { AutomaticFilingAnswer } from "#server/automatic-filing/manage.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, apiSend } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { percent } from "./words.ts";

/** Hands-free filing by queue and document type: what is to be expected of it, and the switch. */
export function AutomaticFilingSettings() {
  const { me, documentType } = useMe();
  const client = useQueryClient();
  const notices = useNotices();
  const [editing, setEditing] = useState<AutomaticFilingAnswer | null>(null);
  const known = useQuery({
    queryKey: ["automaticFiling"],
    queryFn: ({ signal }) => apiGet<{ items: AutomaticFilingAnswer[]; historyMin: number }>("/hands-free", signal),
  });
  const save = useMutation({
    mutationFn: (change: { queue: string; documentType: string; isOn: boolean; asked: number; heldBack: number }) =>
      apiSend<{ isOn: boolean }>("PUT", "/hands-free", change),
    onSuccess: ({ isOn }) => {
      setEditing(null);
      notices.done(isOn ? "Automatic filing is on" : "Automatic filing is off", isOn ? { more: "It starts with the next document." } : {});
      void client.invalidateQueries({ queryKey: ["automaticFiling"] });
    },
    onError: notices.wrong,
  });
  if (!known.data) return null;
  const queueLabel = (key: string): string => me.queues.find((q) => q.key === key)?.label ?? key;
  return (
    <section className="mb-5" aria-labelledby="automatic-filing-title">
      <div className="d-flex align-items-baseline gap-3">
        <h2 id="automatic-filing-title" className="mb-1">
          Automatic filing
        </h2>
        <Link href="/arrivals/automatic-filing">Filed automatically</Link>
      </div>
      <p className="text-2">
        Documents that are certain, complete and free of conflicts are filed without a person. A random sample is held back for a person,
        who does not see the decision. Accuracy is measured on that sample and on later corrections; when it falls below the limit,
        automatic filing switches itself off.
      </p>
      {known.data.items.length === 0 ? (
        <p className="text-2">No documents were filed by people yet. Accuracy is measured against their decisions, so file some first.</p>
      ) : (
        <Table className="align-middle">
          <thead>
            <tr>
              <th>Queue</th>
              <th>Document type</th>
              <th className="text-end">Filed by people</th>
              <th className="text-end">Would be filed</th>
              <th className="text-end">Right</th>
              <th className="text-end" title="Lower bound at 95 % confidence">
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
                    <span className="chip moss">on, {percent(h.asked)} required</span>
                  ) : h.offWhy ? (
                    <span
                      className="chip rust"
                      title={`${h.offWhy.wrong} of ${h.offWhy.of} were wrong: at least ${percent(h.offWhy.bound)} right`}
                    >
                      switched itself off {dayText(h.offWhy.at)}
                    </span>
                  ) : (
                    <span className="chip">
                      {h.may === "yes" ? "off" : h.may === "too-few" ? "off, too few documents" : "off, not accurate enough"}
                    </span>
                  )}
                  {h.filed > 0 ? <span className="text-2 small ms-2">{countText(h.filed, "document")} filed</span> : null}
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
                      Change …
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
  of: AutomaticFilingAnswer;
  label: string;
  historyMin: number;
  isBusy: boolean;
  onHide: () => void;
  onSave: (isOn: boolean, asked: number, heldBack: number) => void;
}) {
  const [asked, setAsked] = useState(String(Math.round(of.asked * 1000) / 10));
  const [heldBack, setHeldBack] = useState(String(Math.round(of.heldBack * 1000) / 10));
  const typed = automaticFilingSettingsSchema.safeParse({ asked: Number(asked) / 100, heldBack: Number(heldBack) / 100 });
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
          Of the last {countText(expected.checked, "document")} filed by people, automatic filing would have filed{" "}
          <strong>{percent(expected.share)}</strong>, {expected.right} of {expected.wouldFile} correctly. So, at 95 % confidence, at least{" "}
          <strong>{percent(expected.bound)}</strong> of its documents will be filed correctly.
        </p>
        <div className="field-row">
          <label htmlFor="hands-asked">Required accuracy</label>
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
            At least {historyMin} documents must confirm it first; there are {expected.wouldFile}.
          </p>
        ) : !isGood && typed.success ? (
          <p className="problem mb-0">
            Too few were confirmed for this accuracy. Without an error it takes {neededFor(typed.data.asked)} documents.
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
            Keep it off
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
