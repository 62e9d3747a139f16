"use client";
import { useMutation } from "@tanstack/react-query";
import { Button, Form } from "react-bootstrap";
import { Paperclip, X } from "react-bootstrap-icons";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";
import { LookUp } from "../records/look-up.tsx";

/** For whoever sent a document and may not file it: what it is and which record it belongs to, so that the clerk only has to confirm. */
export function SayForm({ arrival, onSaid }: { arrival: ArrivalAnswer; onSaid: () => void }) {
  const { me, recordType } = useMe();
  const notices = useNotices();
  const say = useMutation({
    mutationFn: (said: { documentType?: string | null; record?: { company: string; type: string; key: string } | null }) =>
      apiSend("POST", `/arrivals/${arrival.id}/say`, said),
    onSuccess: () => {
      notices.done("Saved", { more: "Whoever files it sees this at once." });
      onSaid();
    },
    onError: notices.wrong,
  });
  const type = me.documentTypes.some((t) => t.key === arrival.proposedType?.type && arrival.proposedType.certainty === 1)
    ? (arrival.proposedType?.type ?? "")
    : "";
  return (
    <section>
      <div className="head">
        <h2>Document type</h2>
      </div>
      <Form.Group controlId="say-type" className="mb-3">
        <Form.Label>Document type</Form.Label>
        <Form.Select value={type} disabled={say.isPending} onChange={(e) => say.mutate({ documentType: e.target.value || null })}>
          <option value="">Choose …</option>
          {me.documentTypes.map((t) => (
            <option key={t.key} value={t.key}>
              {t.label}
            </option>
          ))}
        </Form.Select>
      </Form.Group>
      <Form.Label>Record</Form.Label>
      {arrival.tied ? (
        <div className="clip-card is-main">
          <Paperclip size={18} className="loop" aria-hidden="true" />
          <span style={{ minWidth: 0 }} className="flex-grow-1">
            <strong>
              {recordType(arrival.tied.type)?.label} <span className="mono">{arrival.tied.key}</span>
            </strong>
            <span className="d-block text-2 small">{arrival.tied.title}</span>
          </span>
          <Button variant="quiet" aria-label={`Remove ${arrival.tied.key}`} onClick={() => say.mutate({ record: null })}>
            <X size={18} />
          </Button>
        </div>
      ) : (
        <LookUp
          company={arrival.company ?? undefined}
          onChoose={(hit) => say.mutate({ record: { company: hit.company, type: hit.type, key: hit.key } })}
        />
      )}
    </section>
  );
}
