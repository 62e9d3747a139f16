"use client";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal, ProgressBar } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";
import { apiGet, ApiProblem, queryOf, wordsOf } from "../kit/api.ts";
import { useMe } from "../people/me-context.tsx";

interface Job {
  readonly state: string;
  readonly done: number;
  readonly failed: number;
  readonly total: number | null;
  readonly failures: readonly { readonly what: string; readonly why: string }[];
}

/** Brings records in from a CSV file: right rows are kept, wrong ones listed. Closing it does not stop the import. */
export function ImportDialog({ shown, onHide }: { shown: boolean; onHide: () => void }) {
  const { me, company } = useMe();
  const client = useQueryClient();
  const [type, setType] = useState(me.recordTypes[0]?.key ?? "");
  const [target, setTarget] = useState(company ?? me.companies[0]?.code ?? "");
  const [file, setFile] = useState<File | null>(null);
  const [job, setJob] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  const progress = useQuery({
    queryKey: ["job", job],
    enabled: job !== null,
    queryFn: ({ signal }) => apiGet<Job>(`/jobs/${job}`, signal),
    refetchInterval: (q) => (q.state.data && ["done", "failed"].includes(q.state.data.state) ? false : 600),
  });
  const chosen = me.recordTypes.find((t) => t.key === type);
  const send = async (): Promise<void> => {
    if (!file) return;
    setError(null);
    const response = await fetch(`/api/v1/records/import${queryOf({ type, company: target })}`, {
      method: "POST",
      headers: { "content-type": "text/csv" },
      body: file,
    });
    const body = (await response.json()) as { job?: string; title?: string; detail?: string };
    if (response.ok && body.job) setJob(body.job);
    else setError(new ApiProblem(response.status, body));
  };
  const data = progress.data;
  const over = data !== undefined && ["done", "failed"].includes(data.state);
  const close = (): void => {
    onHide();
    if (over) {
      setJob(null);
      setFile(null);
      void client.invalidateQueries({ queryKey: ["recordCounts"] });
      void client.invalidateQueries({ queryKey: ["records"] });
    }
  };
  return (
    <Dialog show={shown} onHide={close} centered aria-labelledby="import-title">
      <Modal.Header closeButton>
        <h2 id="import-title">Import records from CSV</h2>
      </Modal.Header>
      <Modal.Body>
        {job === null ? (
          <>
            <div className="field-row">
              <label htmlFor="import-type">Record type</label>
              <Form.Select id="import-type" value={type} onChange={(e) => setType(e.target.value)}>
                {me.recordTypes.map((t) => (
                  <option key={t.key} value={t.key}>
                    {t.label}
                  </option>
                ))}
              </Form.Select>
            </div>
            <div className="field-row">
              <label htmlFor="import-company">Company</label>
              <Form.Select id="import-company" value={target} onChange={(e) => setTarget(e.target.value)}>
                {me.companies.map((c) => (
                  <option key={c.code} value={c.code}>
                    {c.name}
                  </option>
                ))}
              </Form.Select>
            </div>
            <div className="field-row">
              <label htmlFor="import-file">File</label>
              <Form.Control
                id="import-file"
                type="file"
                accept=".csv,.tsv,.txt,text/csv"
                onChange={(e) => setFile((e.target as HTMLInputElement).files?.[0] ?? null)}
              />
            </div>
            <p className="text-2 small mb-0 mt-3">
              Header line: <code>key, title</code>, and optionally{" "}
              <code>
                status, date, amount, currency, aboveType, aboveKey, followsType, followsKey
                {chosen ? `, ${chosen.fields.map((f) => f.key).join(", ")}` : ""}
              </code>
              . Existing keys are updated.
            </p>
            {error ? (
              <p className="problem mt-2 mb-0">
                {wordsOf(error).title}. {wordsOf(error).next}
              </p>
            ) : null}
          </>
        ) : (
          <>
            <p role="status" className="fw-bold mb-2">
              {data
                ? `${data.done.toLocaleString("en-GB")} imported${data.failed > 0 ? `, ${data.failed.toLocaleString("en-GB")} skipped` : ""}${over ? "" : " …"}`
                : "Starting …"}
            </p>
            <ProgressBar now={over ? 100 : 40} animated={!over} aria-label="Import" />
            {data && data.failures.length > 0 ? (
              <ul className="mt-3 mb-0 ps-3" style={{ maxHeight: 240, overflowY: "auto" }}>
                {data.failures.map((f, i) => (
                  <li key={i}>
                    <strong>{f.what}</strong>: {f.why}
                  </li>
                ))}
              </ul>
            ) : null}
          </>
        )}
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={close}>
          {job === null ? "Cancel" : "Close"}
        </Button>
        {job === null ? (
          <Button disabled={!file} onClick={() => void send()}>
            Import
          </Button>
        ) : null}
      </Modal.Footer>
    </Dialog>
  );
}
