"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal, Spinner } from "react-bootstrap";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import type { ScanWish } from "#server/ways-in/scan-wish.ts";
import { apiGet, apiSend, queryOf, wordsOf } from "../kit/api.ts";
import { Dialog } from "../kit/dialog.tsx";
import { Link } from "../kit/link.tsx";
import { useMe } from "../people/me-context.tsx";
import { recordPath } from "./record-href.ts";

/** How often it is asked whether the batch has arrived, ms. */
const LOOK_MS = 2000;

/** Ties the next batch of a scanner to a record: choose the scanner's queue, put the pages in, scan there. */
export function ScanDialog({ record: r, onHide }: { record: RecordAnswer; onHide: () => void }) {
  const { me } = useMe();
  const client = useQueryClient();
  const queues = me.queues.filter((q) => q.member);
  const [queue, setQueue] = useState(queues[0]?.key ?? "");
  const begin = useMutation({
    mutationFn: () => apiSend<ScanWish>("POST", `${recordPath(r)}/scan${queryOf({ company: r.company })}`, { queue }),
  });
  const id = begin.data?.id;
  const wish = useQuery({
    queryKey: ["scan", id],
    enabled: id !== undefined,
    queryFn: ({ signal }) => apiGet<ScanWish>(`/scans/${id ?? ""}`, signal),
    refetchInterval: (q) => (q.state.data?.state === "waiting" || !q.state.data ? LOOK_MS : false),
  });
  const state = wish.data?.state ?? (begin.data ? "waiting" : null);
  const close = (): void => {
    if (id !== undefined && state === "waiting") void apiSend("POST", `/scans/${id}/end`).catch(() => {});
    if (state === "arrived") void client.invalidateQueries({ queryKey: ["arrivals"] });
    onHide();
  };
  const label = me.queues.find((q) => q.key === queue)?.label ?? queue;
  return (
    <Dialog show onHide={close} centered aria-labelledby="scan-title">
      <Form
        onSubmit={(e) => {
          e.preventDefault();
          begin.mutate();
        }}
      >
        <Modal.Header closeButton>
          <h2 id="scan-title">
            Scan to <span className="mono">{r.key}</span>
          </h2>
        </Modal.Header>
        <Modal.Body aria-live="polite">
          {begin.isError ? (
            <p className="problem" role="alert">
              {wordsOf(begin.error).title}. {wordsOf(begin.error).next}
            </p>
          ) : null}
          {state === null ? (
            queues.length === 0 ? (
              <p className="mb-0">You have no queue with a scanner. Ask an administrator to add you to one.</p>
            ) : (
              <Form.Group controlId="scan-queue">
                <Form.Label>Scanner</Form.Label>
                <Form.Select autoFocus value={queue} onChange={(e) => setQueue(e.target.value)}>
                  {queues.map((q) => (
                    <option key={q.key} value={q.key}>
                      Scanner of {q.label}
                    </option>
                  ))}
                </Form.Select>
                <Form.Text>The next batch scanned within five minutes is assigned to this record.</Form.Text>
              </Form.Group>
            )
          ) : state === "waiting" ? (
            <p className="mb-0 d-flex gap-2 align-items-center">
              <Spinner size="sm" aria-hidden="true" /> Waiting for the scanner of {label}. Scan now.
            </p>
          ) : state === "arrived" ? (
            <p className="mb-0">
              The batch has arrived, assigned to {r.key}.{" "}
              <Link href={`/arrivals?at=${wish.data?.arrival ?? ""}`}>{me.may.file ? "File now" : "Show in Arrivals"}</Link>
            </p>
          ) : (
            <p className="mb-0">Nothing arrived within five minutes.</p>
          )}
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={close}>
            {state === "waiting" ? "Stop waiting" : state === null ? "Cancel" : "Close"}
          </Button>
          {state === null || state === "over" ? (
            <Button type="submit" disabled={queue === "" || begin.isPending}>
              Start waiting
            </Button>
          ) : null}
        </Modal.Footer>
      </Form>
    </Dialog>
  );
}
