"use client";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Button, Modal } from "react-bootstrap";
import { draftFields } from "#core/drafts/fill-draft.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import type { DraftAnswer } from "#server/drafts/list-drafts.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { When } from "../kit/parts.tsx";
import { useMe } from "../people/me-context.tsx";
import { DraftFields } from "./draft-fields.tsx";
import { draftStateText, unansweredWords } from "./draft-words.ts";

/** How often a draft that is on its way is looked at, ms. */
const LOOKS_MS = 2000;

/** How a record that was made here stands with the business system, and what can be done about it. Nothing once it is entered. */
export function DraftNote({
  draft,
  onMoved,
  onWithdrawn,
}: {
  draft: DraftAnswer;
  /** It stands otherwise by now. */
  onMoved: (draft: DraftAnswer) => void;
  /** Its document waits again, as that arrival. */
  onWithdrawn: (arrivalId: string | null) => void;
}) {
  const { me, recordType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const [mending, setMending] = useState(false);
  const { id, state } = draft;
  useEffect(() => {
    if (state !== "sending") return;
    // Its number comes while one looks on: the page goes on under that.
    const timer = setInterval(() => {
      void apiGet<DraftAnswer>(`/drafts/${id}`).then(
        (now) => {
          if (now.state !== "sending" || now.problem !== draft.problem) onMoved(now);
        },
        () => {},
      );
    }, LOOKS_MS);
    return () => clearInterval(timer);
  }, [id, state, draft.problem, onMoved]);
  const again = useMutation({
    mutationFn: (fields: FieldValues) => apiSend("POST", `/drafts/${id}/send`, { fields }),
    onSuccess: () => {
      setMending(false);
      void client.invalidateQueries();
    },
    onError: notices.wrong,
  });
  const withdraw = useMutation({
    mutationFn: () => apiSend<{ arrivalId: string | null }>("POST", `/drafts/${id}/withdraw`),
    onSuccess: ({ arrivalId }) => {
      void client.invalidateQueries();
      notices.done("Withdrawn", { more: "Its document is back in Arrivals." });
      onWithdrawn(arrivalId);
    },
    onError: notices.wrong,
  });
  if (state === "accepted") return null;
  const type = recordType(draft.record.type);
  const labelOf = (path: string): string =>
    type?.fields.find((f) => `fields.${f.key}` === path)?.label ?? (path === "parent" ? "Account" : path === "follows" ? "Follows" : "");
  return (
    <div className={`draft-note is-${state} mx-3 mx-md-4 my-2`} role="status">
      <div className="flex-grow-1" style={{ minWidth: 0 }}>
        <strong>{draftStateText(draft).replace(/^./, (c) => c.toUpperCase())}</strong>
        {state === "sending" && draft.problem !== null ? (
          <>
            . {unansweredWords[draft.problem] ?? draft.problem} It is kept and sent again
            {draft.nextTryAt ? (
              <>
                {" "}
                at <time dateTime={draft.nextTryAt}>{new Date(draft.nextTryAt).toLocaleTimeString("en-GB")}</time>
              </>
            ) : null}
            .
          </>
        ) : null}
        {state === "refused" ? (
          <ul className="mb-0">
            {draft.reasons.map((r, i) => (
              <li key={i}>{[labelOf(r.path), r.message].filter(Boolean).join(" ")}</li>
            ))}
          </ul>
        ) : null}
        {draft.madeBy ? (
          <span className="text-2 small">
            {" "}
            created by {draft.madeBy}, <When at={draft.madeAt} />
          </span>
        ) : null}
      </div>
      {me.may.file && state === "sending" && draft.problem !== null ? (
        <Button size="sm" variant="plain" disabled={again.isPending} onClick={() => again.mutate({})}>
          Retry now
        </Button>
      ) : null}
      {me.may.file && state === "refused" ? (
        <>
          <Button size="sm" variant="plain" disabled={withdraw.isPending} onClick={() => withdraw.mutate()}>
            Withdraw
          </Button>
          <Button size="sm" onClick={() => setMending(true)}>
            Correct
          </Button>
        </>
      ) : null}
      {mending ? (
        <MendDialog draft={draft} isBusy={again.isPending} onSend={(fields) => again.mutate(fields)} onHide={() => setMending(false)} />
      ) : null}
    </div>
  );
}

/** A refused draft's fields, with what was said against each. */
function MendDialog({
  draft,
  isBusy,
  onSend,
  onHide,
}: {
  draft: DraftAnswer;
  isBusy: boolean;
  onSend: (fields: FieldValues) => void;
  onHide: () => void;
}) {
  const { recordType } = useMe();
  const type = recordType(draft.record.type);
  const fields = type ? draftFields(type) : [];
  const [typed, setTyped] = useState<FieldValues>({});
  const values = { ...draft.record.fields, ...typed };
  const checked = fieldValuesSchema(fields).safeParse(values);
  const said = new Map(
    draft.reasons.flatMap((r) => (r.path.startsWith("fields.") ? [[r.path.slice("fields.".length), r.message] as const] : [])),
  );
  const wrong = new Map([
    ...[...said].filter(([k]) => typed[k] === undefined),
    ...(checked.success ? [] : checked.error.issues.map((i) => [String(i.path[0]), i.message] as const)),
  ]);
  const others = draft.reasons.filter((r) => !r.path.startsWith("fields."));
  return (
    <Dialog show onHide={onHide} aria-labelledby="mend-title" scrollable>
      <Modal.Header closeButton>
        <Modal.Title as="h2" id="mend-title" style={{ fontSize: "1.0625rem" }}>
          Put {draft.record.key} right
        </Modal.Title>
      </Modal.Header>
      <Modal.Body>
        {others.map((r, i) => (
          <p key={i} className="problem">
            {r.message.replace(/^./, (c) => c.toUpperCase())}.
          </p>
        ))}
        <DraftFields
          fields={fields}
          values={values}
          sources={draft.sources}
          wrong={wrong}
          onValue={(key, value) => setTyped((now) => ({ ...now, [key]: value ?? "" }))}
        />
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={onHide}>
          Cancel
        </Button>
        <Button disabled={isBusy || !checked.success} onClick={() => onSend(typed)}>
          Send again
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
