"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Table } from "react-bootstrap";
import type { QueueLimits } from "#core/arrivals/limits.ts";
import type { QueueAnswer } from "#server/ways-in/queue-ways.ts";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";

const MEGABYTE = 1024 * 1024;

/** What each queue does by itself with what comes in, and what it takes at most. */
export function QueueIntake() {
  const queues = useQuery({
    queryKey: ["queueMail"],
    queryFn: ({ signal }) => apiGet<{ items: QueueAnswer[] }>("/settings/queues", signal),
  });
  if (!queues.data) return null;
  return (
    <section className="mb-5" aria-labelledby="intake-title">
      <h2 id="intake-title" className="mb-1">
        Queues
      </h2>
      <p className="text-2">
        With cover sheets and labels a stack is taken apart and filed by itself, with the rights of whoever allows it. Empty limits are
        those above.
      </p>
      <div style={{ overflowX: "auto" }}>
        <Table className="align-middle">
          <thead>
            <tr>
              <th>Queue</th>
              <th>Files by cover sheets and labels</th>
              <th>Blank pages of scans</th>
              <th>Largest file, MB</th>
              <th>Most pages</th>
              <th>
                <span className="visually-hidden">Save</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {queues.data.items.map((q) => (
              <QueueLine key={q.key} queue={q} />
            ))}
          </tbody>
        </Table>
      </div>
    </section>
  );
}

function QueueLine({ queue: q }: { queue: QueueAnswer }) {
  const notices = useNotices();
  const client = useQueryClient();
  const [limits, setLimits] = useState<QueueLimits | null>(null);
  const save = useMutation({
    mutationFn: (wish: { filesByCodes: boolean; leavesOutBlanks: boolean; limits: QueueLimits }) =>
      apiSend("PUT", `/settings/queues/${q.key}/intake`, wish),
    onSuccess: () => {
      setLimits(null);
      notices.done(`${q.label} is changed`, { more: "It holds for what comes in from now on." });
      void client.invalidateQueries({ queryKey: ["queueMail"] });
    },
    onError: notices.wrong,
  });
  const now = { filesByCodes: q.codesBy !== null, leavesOutBlanks: q.leavesOutBlanks, limits: q.limits };
  const shown = limits ?? q.limits;
  const number = (value: string): number | undefined => (Number(value) >= 1 ? Math.round(Number(value)) : undefined);
  return (
    <tr>
      <td>{q.label}</td>
      <td>
        <Form.Check
          id={`codes-${q.key}`}
          checked={now.filesByCodes}
          label={q.codesBy ? `yes, with the rights of ${q.codesBy}` : "no"}
          aria-label={`${q.label} files by cover sheets and labels`}
          disabled={save.isPending}
          onChange={(e) => save.mutate({ ...now, filesByCodes: e.target.checked })}
        />
      </td>
      <td>
        <Form.Check
          id={`blanks-${q.key}`}
          checked={now.leavesOutBlanks}
          label={now.leavesOutBlanks ? "left out" : "kept"}
          aria-label={`${q.label} leaves out the blank pages of scans`}
          disabled={save.isPending}
          onChange={(e) => save.mutate({ ...now, leavesOutBlanks: e.target.checked })}
        />
      </td>
      <td>
        <Form.Control
          size="sm"
          type="number"
          min={1}
          style={{ width: 110 }}
          aria-label={`Largest file for ${q.label}, MB`}
          value={shown.bytesMax === undefined ? "" : Math.round(shown.bytesMax / MEGABYTE)}
          onChange={(e) => {
            const megabytes = number(e.target.value);
            setLimits({ ...shown, bytesMax: megabytes === undefined ? undefined : megabytes * MEGABYTE });
          }}
        />
      </td>
      <td>
        <Form.Control
          size="sm"
          type="number"
          min={1}
          style={{ width: 110 }}
          aria-label={`Most pages for ${q.label}`}
          value={shown.pagesMax ?? ""}
          onChange={(e) => setLimits({ ...shown, pagesMax: number(e.target.value) })}
        />
      </td>
      <td>
        {limits !== null ? (
          <Button size="sm" variant="plain" disabled={save.isPending} onClick={() => save.mutate({ ...now, limits })}>
            Save
          </Button>
        ) : null}
      </td>
    </tr>
  );
}
