"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Table } from "react-bootstrap";
import { Plus, X } from "react-bootstrap-icons";
import { type LabelFormat, matchLabel, wrongWithPattern } from "#core/codes/label-format.ts";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { useMe } from "../people/me-context.tsx";

/** The barcodes of the business system: what they look like, and what they name. */
export function LabelFormats() {
  const notices = useNotices();
  const client = useQueryClient();
  const { me } = useMe();
  const [draft, setDraft] = useState<readonly LabelFormat[] | null>(null);
  const [tried, setTried] = useState("");
  const known = useQuery({
    queryKey: ["labelFormats"],
    queryFn: ({ signal }) => apiGet<{ items: LabelFormat[] }>("/settings/label-formats", signal),
  });
  const save = useMutation({
    mutationFn: (formats: readonly LabelFormat[]) => apiSend("PUT", "/settings/label-formats", { formats }),
    onSuccess: () => {
      setDraft(null);
      notices.done("Barcodes saved", { more: "They apply to documents received from now on." });
      void client.invalidateQueries({ queryKey: ["labelFormats"] });
    },
    onError: notices.wrong,
  });
  if (!known.data) return null;
  const formats = draft ?? known.data.items;
  const set = (at: number, to: Partial<LabelFormat>): void => setDraft(formats.map((f, i) => (i === at ? { ...f, ...to } : f)));
  const fits = tried === "" ? null : matchLabel(tried, formats);
  return (
    <section className="mb-5" aria-labelledby="labels-title">
      <h2 id="labels-title" className="mb-1">
        Barcodes of the business system
      </h2>
      <p className="text-2">
        The pattern recognises a barcode. The part in brackets, or the whole text, is the record number: <code>^B-\d&#123;5&#125;$</code>
      </p>
      {formats.length > 0 ? (
        <Table className="align-middle">
          <thead>
            <tr>
              <th>Pattern</th>
              <th>Record type</th>
              <th>Document type</th>
              <th>Starts a document</th>
              <th>
                <span className="visually-hidden">Remove</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {formats.map((f, i) => {
              const wrong = f.pattern === "" ? null : wrongWithPattern(f.pattern);
              return (
                <tr key={i}>
                  <td>
                    <Form.Control
                      size="sm"
                      className="mono"
                      aria-label={`Pattern ${i + 1}`}
                      value={f.pattern}
                      isInvalid={wrong !== null}
                      onChange={(e) => set(i, { pattern: e.target.value })}
                    />
                    {wrong ? <div className="problem small">It {wrong}.</div> : null}
                  </td>
                  <td>
                    <Form.Select
                      size="sm"
                      aria-label={`Record type ${i + 1}`}
                      value={f.recordType}
                      onChange={(e) => set(i, { recordType: e.target.value })}
                    >
                      {me.recordTypes.map((t) => (
                        <option key={t.key} value={t.key}>
                          {t.label}
                        </option>
                      ))}
                    </Form.Select>
                  </td>
                  <td>
                    <Form.Select
                      size="sm"
                      aria-label={`Document type ${i + 1}`}
                      value={f.documentType ?? ""}
                      onChange={(e) => set(i, { documentType: e.target.value || null })}
                    >
                      <option value="">any document</option>
                      {me.documentTypes.map((t) => (
                        <option key={t.key} value={t.key}>
                          {t.label}
                        </option>
                      ))}
                    </Form.Select>
                  </td>
                  <td>
                    <Form.Check
                      id={`begins-${i}`}
                      aria-label={`Pattern ${i + 1} starts a document`}
                      checked={f.begins}
                      onChange={(e) => set(i, { begins: e.target.checked })}
                    />
                  </td>
                  <td>
                    <Button
                      variant="quiet"
                      aria-label={`Remove pattern ${i + 1}`}
                      onClick={() => setDraft(formats.filter((_, n) => n !== i))}
                    >
                      <X size={16} />
                    </Button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </Table>
      ) : null}
      <div className="d-flex flex-wrap align-items-center gap-2">
        <Button
          variant="plain"
          onClick={() =>
            setDraft([
              ...formats,
              { pattern: "", recordType: me.recordTypes[0]?.key ?? "", company: null, documentType: null, begins: true },
            ])
          }
        >
          <Plus size={16} /> Add pattern
        </Button>
        {formats.length > 0 ? (
          <>
            <Form.Control
              size="sm"
              className="mono"
              style={{ width: 170 }}
              placeholder="Test a barcode text"
              aria-label="Test a barcode text"
              value={tried}
              onChange={(e) => setTried(e.target.value)}
            />
            <span className="text-2 small" role="status">
              {tried === ""
                ? ""
                : fits
                  ? `${me.recordTypes.find((t) => t.key === fits.format.recordType)?.label ?? ""} ${fits.key}`
                  : "matches no pattern"}
            </span>
          </>
        ) : null}
        {draft !== null ? (
          <Button
            className="ms-auto"
            disabled={save.isPending || formats.some((f) => f.pattern === "" || wrongWithPattern(f.pattern) !== null)}
            onClick={() => save.mutate(formats)}
          >
            Save barcodes
          </Button>
        ) : null}
      </div>
    </section>
  );
}
