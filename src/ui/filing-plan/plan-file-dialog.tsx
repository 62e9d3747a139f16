"use client";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import type { RuleDifference } from "#core/filing-plan/plan-file.ts";
import type { FieldError } from "#core/shared/result.ts";
import { Dialog } from "../kit/dialog.tsx";
import { apiSend, wordsOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";

interface Compared {
  readonly differences: readonly RuleDifference[];
  readonly errors: readonly FieldError[];
}

/** The filing plan as one open file: download it, or bring one in after seeing what it changes. */
export function PlanFileDialog({ shown, onHide }: { shown: boolean; onHide: () => void }) {
  const { recordType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const [text, setText] = useState<string | null>(null);
  const compare = useMutation({ mutationFn: (file: string) => apiSend<Compared>("POST", "/folder-rules/file", { text: file }) });
  const save = useMutation({
    mutationFn: () => apiSend<{ saved: readonly string[] }>("POST", "/folder-rules/file", { text, save: true }),
    onSuccess: ({ saved }) => {
      void client.invalidateQueries({ queryKey: ["plan"] });
      notices.done(`${saved.length} folder rules saved`, {
        more: "They apply to records without a folder. Compute moves for the rest.",
      });
      close();
    },
    onError: notices.wrong,
  });
  const close = (): void => {
    setText(null);
    compare.reset();
    onHide();
  };
  const label = (key: string): string => recordType(key)?.plural ?? key;
  const differing = compare.data?.differences.filter((d) => d.kind !== "same") ?? [];
  return (
    <Dialog show={shown} onHide={close} centered size="lg" aria-labelledby="plan-file-title">
      <Modal.Header closeButton>
        <h2 id="plan-file-title">Filing plan as a file</h2>
      </Modal.Header>
      <Modal.Body>
        <div className="d-flex gap-2 mb-3 align-items-center">
          <a className="btn btn-plain" href="/api/v1/folder-rules/file?form=yaml" download>
            Download YAML
          </a>
          <a className="btn btn-plain" href="/api/v1/folder-rules/file?form=json" download>
            Download JSON
          </a>
          {/* oxlint-disable-next-line nextjs/no-html-link-for-pages -- no view of ours: an answer of the API */}
          <a className="ms-auto" href="/api/v1/folder-rules/schema.json">
            JSON Schema
          </a>
        </div>
        <Form.Group controlId="plan-file">
          <Form.Label>Import</Form.Label>
          <Form.Control
            type="file"
            accept=".yaml,.yml,.json"
            onChange={(e) => {
              const file = (e.target as HTMLInputElement).files?.[0];
              if (!file) return;
              void file.text().then((t) => {
                setText(t);
                compare.mutate(t);
              });
            }}
          />
        </Form.Group>
        <div aria-live="polite" className="mt-3">
          {compare.error ? (
            <p className="problem">
              {wordsOf(compare.error).title}. {wordsOf(compare.error).next}
            </p>
          ) : null}
          {compare.data && compare.data.errors.length > 0 ? (
            <ul className="problem ps-3">
              {compare.data.errors.slice(0, 20).map((e) => (
                <li key={e.path + e.message}>
                  <code>{e.path}</code> {e.message}
                </li>
              ))}
            </ul>
          ) : null}
          {compare.data && compare.data.errors.length === 0 ? (
            differing.length === 0 ? (
              <p className="mb-0">The file equals the current plan. Nothing changes.</p>
            ) : (
              <>
                <p className="mb-2">{differing.length} record types change:</p>
                <ul className="ps-3 mb-0">
                  {differing.map((d) => (
                    <li key={d.recordType} className="mb-1">
                      <strong>{label(d.recordType)}</strong> {d.kind === "added" ? "gets a rule" : ""}
                      {d.changes.map((c) => (
                        <div key={c.part} className="small text-break">
                          {c.part}: <del className="text-2">{c.from || "nothing"}</del> →{" "}
                          <ins className="text-decoration-none fw-bold">{c.to || "nothing"}</ins>
                        </div>
                      ))}
                    </li>
                  ))}
                </ul>
              </>
            )
          ) : null}
        </div>
      </Modal.Body>
      <Modal.Footer>
        <Button variant="plain" onClick={close}>
          Close
        </Button>
        <Button disabled={differing.length === 0 || (compare.data?.errors.length ?? 0) > 0 || save.isPending} onClick={() => save.mutate()}>
          Save rules
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}
