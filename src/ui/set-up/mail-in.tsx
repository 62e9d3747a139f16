"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Table } from "react-bootstrap";
import { Copy } from "react-bootstrap-icons";
import type { MailKeeps } from "#core/arrivals/mail-in.ts";
import type { QueueAnswer } from "#server/ways-in/queue-ways.ts";
import { apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { Skeletons, Trouble } from "../kit/parts.tsx";

const keepWords: Readonly<Record<MailKeeps, string>> = {
  messageAndParts: "message and attachments",
  partsOnly: "attachments; the message is set aside",
  ask: "ask for each message",
};

/** Mail in: the address of each queue, who may send there, and what is kept of a message. */
export function MailIn() {
  const queues = useQuery({
    queryKey: ["queueMail"],
    queryFn: ({ signal }) => apiGet<{ items: QueueAnswer[] }>("/settings/queues", signal),
  });
  return (
    <section className="mb-5" aria-labelledby="mail-title">
      <h2 id="mail-title" className="mb-1">
        Incoming mail
      </h2>
      {queues.isPending ? <Skeletons rows={3} /> : null}
      {queues.isError ? <Trouble {...wordsOf(queues.error)} /> : null}
      {queues.data?.items.every((q) => q.address === null) ? (
        <p className="text-2">No mail port is configured, so no mail is received.</p>
      ) : (
        <p className="text-2">
          Add a record or document number after a plus sign or in the subject to assign the message: payables+PO-6127@…
        </p>
      )}
      {queues.data ? (
        <div style={{ overflowX: "auto" }}>
          <Table className="align-middle">
            <thead>
              <tr>
                <th>Queue</th>
                <th>Address</th>
                <th>Parts kept</th>
                <th>Who may send</th>
              </tr>
            </thead>
            <tbody>
              {queues.data.items.map((q) => (
                <QueueLine key={q.key} queue={q} />
              ))}
            </tbody>
          </Table>
        </div>
      ) : null}
    </section>
  );
}

function QueueLine({ queue: q }: { queue: QueueAnswer }) {
  const notices = useNotices();
  const client = useQueryClient();
  const [senders, setSenders] = useState<string | null>(null);
  const save = useMutation({
    mutationFn: (wish: { keeps: MailKeeps; senders: readonly string[] }) => apiSend("PUT", `/settings/queues/${q.key}`, wish),
    onSuccess: () => {
      setSenders(null);
      notices.done(`Mail settings of ${q.label} saved`, { more: "They apply to the next message." });
      void client.invalidateQueries({ queryKey: ["queueMail"] });
    },
    onError: notices.wrong,
  });
  const written = senders ?? q.senders.join(", ");
  const list = written
    .split(/[\s,;]+/)
    .map((s) => s.trim())
    .filter((s) => s !== "");
  return (
    <tr>
      <td>{q.label}</td>
      <td className="text-nowrap">
        {q.address ? (
          <>
            <span className="mono">{q.address}</span>
            <Button
              size="sm"
              variant="quiet"
              aria-label={`Copy the address of ${q.label}`}
              onClick={() =>
                void navigator.clipboard
                  .writeText(q.address ?? "")
                  .then(() => notices.done("Address copied", { more: q.address ?? "" }), notices.wrong)
              }
            >
              <Copy size={12} />
            </Button>
          </>
        ) : (
          <span className="text-2">none</span>
        )}
      </td>
      <td>
        <Form.Select
          size="sm"
          aria-label={`Parts kept from mail to ${q.label}`}
          value={q.keeps}
          disabled={save.isPending}
          onChange={(e) => save.mutate({ keeps: e.target.value as MailKeeps, senders: q.senders })}
        >
          {(Object.keys(keepWords) as MailKeeps[]).map((k) => (
            <option key={k} value={k}>
              {keepWords[k]}
            </option>
          ))}
        </Form.Select>
      </td>
      <td>
        <Form
          className="d-flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate({ keeps: q.keeps, senders: list });
          }}
        >
          <Form.Control
            size="sm"
            aria-label={`Who may send to ${q.label}`}
            placeholder="everybody; or addresses, @domains"
            value={written}
            onChange={(e) => setSenders(e.target.value)}
          />
          {senders !== null && senders !== q.senders.join(", ") ? (
            <Button type="submit" size="sm" variant="plain" disabled={save.isPending}>
              Save
            </Button>
          ) : null}
        </Form>
      </td>
    </tr>
  );
}
