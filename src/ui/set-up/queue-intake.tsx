"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Table } from "react-bootstrap";
import { ChevronDown, ChevronUp } from "react-bootstrap-icons";
import { type ContentKind, contentKinds, type IntakeLimits, type QueueLimits } from "#core/arrivals/limits.ts";
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
  const general = useQuery({ queryKey: ["limits"], queryFn: ({ signal }) => apiGet<IntakeLimits>("/settings/limits", signal) });
  if (!queues.data || !general.data) return null;
  return (
    <section className="mb-5" aria-labelledby="intake-title">
      <h2 id="intake-title" className="mb-1">
        Queues
      </h2>
      <p className="text-2">
        Stacks with cover sheets or labels are split and filed automatically, with the rights of the person who switched this on. Empty
        limits use the general ones.
      </p>
      <div style={{ overflowX: "auto" }}>
        <Table className="align-middle">
          <thead>
            <tr>
              <th>Queue</th>
              <th>File by cover sheets and labels</th>
              <th>Blank pages of scans</th>
              <th>Largest file, MB</th>
              <th>Most pages</th>
              <th>File types</th>
              <th>
                <span className="visually-hidden">Save</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {queues.data.items.map((q) => (
              <QueueLine key={q.key} queue={q} general={general.data} />
            ))}
          </tbody>
        </Table>
      </div>
    </section>
  );
}

function QueueLine({ queue: q, general }: { queue: QueueAnswer; general: IntakeLimits }) {
  const notices = useNotices();
  const client = useQueryClient();
  const [limits, setLimits] = useState<QueueLimits | null>(null);
  const [showsKinds, setShowsKinds] = useState(false);
  const save = useMutation({
    mutationFn: (wish: { filesByCodes: boolean; leavesOutBlanks: boolean; limits: QueueLimits }) =>
      apiSend("PUT", `/settings/queues/${q.key}/intake`, wish),
    onSuccess: () => {
      setLimits(null);
      notices.done(`${q.label} saved`, { more: "It applies to files received from now on." });
      void client.invalidateQueries({ queryKey: ["queueMail"] });
    },
    onError: notices.wrong,
  });
  const now = { filesByCodes: q.codesBy !== null, leavesOutBlanks: q.leavesOutBlanks, limits: q.limits };
  const shown = limits ?? q.limits;
  const offered = general.kinds;
  const taken = offered.filter((k) => shown.kinds?.includes(k) ?? true);
  const words = taken.length === offered.length ? "all" : taken.length === 0 ? "none" : `${taken.length} of ${offered.length}`;
  return (
    <>
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
            label={now.leavesOutBlanks ? "removed" : "kept"}
            aria-label={`${q.label} removes blank pages from scans`}
            disabled={save.isPending}
            onChange={(e) => save.mutate({ ...now, leavesOutBlanks: e.target.checked })}
          />
        </td>
        <td>
          <OwnLimit
            label={`Largest file for ${q.label}, MB`}
            general={Math.round(general.bytesMax / MEGABYTE)}
            value={shown.bytesMax === undefined ? undefined : Math.round(shown.bytesMax / MEGABYTE)}
            onChange={(n) => setLimits({ ...shown, bytesMax: n === undefined ? undefined : n * MEGABYTE })}
          />
        </td>
        <td>
          <OwnLimit
            label={`Most pages for ${q.label}`}
            general={general.pagesMax}
            value={shown.pagesMax}
            onChange={(pagesMax) => setLimits({ ...shown, pagesMax })}
          />
        </td>
        <td>
          <Button
            size="sm"
            variant="plain"
            aria-expanded={showsKinds}
            aria-label={`File types for ${q.label}: ${words}`}
            onClick={() => setShowsKinds(!showsKinds)}
          >
            {words} {showsKinds ? <ChevronUp aria-hidden="true" /> : <ChevronDown aria-hidden="true" />}
          </Button>
        </td>
        <td>
          {limits !== null ? (
            <Button
              size="sm"
              variant="plain"
              disabled={save.isPending || shown.kinds?.length === 0}
              onClick={() => save.mutate({ ...now, limits })}
            >
              Save
            </Button>
          ) : null}
        </td>
      </tr>
      {showsKinds ? (
        <tr>
          <td colSpan={7}>
            <Kinds queue={q} offered={offered} taken={taken} onChange={(kinds) => setLimits({ ...shown, kinds })} />
          </td>
        </tr>
      ) : null}
    </>
  );
}

/** A number that a queue narrows; empty is the one that holds everywhere, which stands in it faintly. */
function OwnLimit({
  label,
  general,
  value,
  onChange,
}: {
  label: string;
  general: number;
  value: number | undefined;
  onChange: (value: number | undefined) => void;
}) {
  return (
    <Form.Control
      size="sm"
      type="number"
      min={1}
      style={{ width: 110 }}
      aria-label={label}
      placeholder={String(general)}
      value={value ?? ""}
      onChange={(e) => onChange(Number(e.target.value) >= 1 ? Math.round(Number(e.target.value)) : undefined)}
    />
  );
}

/** The kinds of file that a queue takes of those that are taken in at all; with all of them it has no limit of its own. */
function Kinds({
  queue,
  offered,
  taken,
  onChange,
}: {
  queue: QueueAnswer;
  offered: readonly string[];
  taken: readonly string[];
  onChange: (kinds: string[] | undefined) => void;
}) {
  const tick = (kind: string): void => {
    const next = offered.filter((k) => (k === kind ? !taken.includes(k) : taken.includes(k)));
    onChange(next.length === offered.length ? undefined : next);
  };
  return (
    <fieldset className="d-flex flex-wrap gap-3 py-1">
      <legend className="visually-hidden">File types for {queue.label}</legend>
      {offered.map((k) => (
        <Form.Check
          key={k}
          id={`${queue.key}-${k}`}
          label={k in contentKinds ? contentKinds[k as ContentKind].label : k}
          checked={taken.includes(k)}
          onChange={() => tick(k)}
        />
      ))}
    </fieldset>
  );
}
