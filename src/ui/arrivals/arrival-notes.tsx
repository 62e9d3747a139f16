"use client";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import type { MailAnswer } from "#core/arrivals/mail-in.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { Filed } from "#server/documents/file-away.ts";
import { apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { SamePaper } from "./same-paper.tsx";

const answers: Readonly<Record<MailAnswer, string>> = {
  messageAndParts: "Message and attachments",
  partsOnly: "Attachments only",
  messageOnly: "Message only",
};

/** What is to be known of a document before anything else: who works on it, a word that came with it, what is asked, what it is like. */
export function ArrivalNotes({
  arrival,
  other,
  onTakeOver,
  onSetAside,
  onVersion,
  onChanged,
}: {
  arrival: ArrivalAnswer;
  /** Somebody else who works on it. */
  other: string | null;
  onTakeOver: () => void;
  onSetAside: (reason: string) => void;
  onVersion: (filed: Filed) => void;
  onChanged: () => void;
}) {
  const notices = useNotices();
  const client = useQueryClient();
  const keep = useMutation({
    mutationFn: (keeps: MailAnswer) => apiSend("POST", `/arrivals/${arrival.id}/keep`, { keeps }),
    onSuccess: (_, keeps) => {
      notices.done(`Kept: ${answers[keeps].toLowerCase()}`, { more: "The rest stays in the register." });
      void client.invalidateQueries({ queryKey: ["arrivals"] });
    },
    onError: notices.wrong,
  });
  return (
    <>
      {other ? (
        <section className="d-flex align-items-center gap-2" role="status" style={{ background: "var(--plum-1)" }}>
          <span style={{ color: "var(--plum)" }}>
            <strong>{other}</strong> is working on this document.
          </span>
          <Button size="sm" variant="plain" className="ms-auto" onClick={onTakeOver}>
            Take over
          </Button>
        </section>
      ) : null}
      {arrival.isHeldBack ? (
        <section className="small" role="status" style={{ background: "var(--plum-1)" }}>
          <strong>Held back as a sample.</strong> File as usual. Afterwards you see what automatic filing would have done.
        </section>
      ) : null}
      {arrival.handed ? (
        <section className="small" style={{ background: "var(--plum-1)" }}>
          <strong>{arrival.handed.by ?? "Somebody"}</strong> assigned it to{" "}
          {arrival.handed.toMe ? "you" : (arrival.handed.to ?? "this queue")}
          {arrival.handed.word ? `: ${arrival.handed.word}` : "."}
        </section>
      ) : null}
      {arrival.mail?.asks ? (
        <section aria-label="Parts to keep">
          <div className="mb-2">Which parts become documents? The rest stays in the register.</div>
          <div className="d-flex flex-wrap gap-2">
            {(Object.keys(answers) as MailAnswer[]).map((a) => (
              <Button key={a} size="sm" variant="plain" disabled={keep.isPending} onClick={() => keep.mutate(a)}>
                {answers[a]}
              </Button>
            ))}
          </div>
        </section>
      ) : null}
      <SamePaper arrival={arrival} onSetAside={onSetAside} onVersion={onVersion} onApart={onChanged} />
    </>
  );
}
