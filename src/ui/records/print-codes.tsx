"use client";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form, Modal } from "react-bootstrap";
import { Dialog } from "../kit/dialog.tsx";
import { ApiProblem } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";

type Kind = "coverSheet" | "label";

/** Prints cover sheets or labels for one record or many: a PDF that opens to be printed. */
export function PrintCodes({
  records,
  onHide,
}: {
  records: readonly { readonly company: string; readonly type: string; readonly key: string }[];
  onHide: () => void;
}) {
  const { me } = useMe();
  const notices = useNotices();
  const type = records[0]?.type ?? "";
  const usual = me.documentTypes.filter((t) => t.usualFor.includes(type));
  const others = me.documentTypes.filter((t) => !usual.includes(t));
  const [kind, setKind] = useState<Kind>("coverSheet");
  const [documentType, setDocumentType] = useState(usual[0]?.key ?? "");
  const [used, setUsed] = useState(0);
  const print = useMutation({
    mutationFn: async () => {
      const answer = await fetch("/api/v1/codes/sheets", {
        method: "POST",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({
          kind,
          used,
          items: records.map(({ company, type: t, key }) => ({ company, type: t, key, documentType: documentType || null })),
        }),
      });
      if (!answer.ok) throw new ApiProblem(answer.status, await answer.json().catch(() => ({})));
      return answer.blob();
    },
    onSuccess: (pdf) => {
      const address = URL.createObjectURL(pdf);
      const link = document.createElement("a");
      link.href = address;
      link.download = kind === "label" ? "labels.pdf" : "cover-sheets.pdf";
      link.click();
      setTimeout(() => URL.revokeObjectURL(address), 10_000);
      onHide();
      notices.done(
        kind === "label" ? `${countText(records.length, "label")} to print` : `${countText(records.length, "cover sheet")} to print`,
        {
          more:
            kind === "label"
              ? "Stick each label on the first page of its document."
              : "Put each cover sheet in front of its documents and scan them together.",
        },
      );
    },
    onError: notices.wrong,
  });
  return (
    <Dialog show onHide={onHide} centered size="sm" aria-labelledby="print-title">
      <Form
        onSubmit={(e) => {
          e.preventDefault();
          print.mutate();
        }}
      >
        <Modal.Header closeButton>
          <h2 id="print-title">{`Print for ${records.length === 1 ? (records[0]?.key ?? "") : countText(records.length, "record")}`}</h2>
        </Modal.Header>
        <Modal.Body>
          <Form.Check
            type="radio"
            name="print-kind"
            id="print-cover"
            label="Cover sheet: in front of the pages, not filed"
            checked={kind === "coverSheet"}
            onChange={() => setKind("coverSheet")}
          />
          <Form.Check
            type="radio"
            name="print-kind"
            id="print-label"
            className="mb-3"
            label="Label: stuck on the first page"
            checked={kind === "label"}
            onChange={() => setKind("label")}
          />
          <Form.Label htmlFor="print-type">Document type</Form.Label>
          <Form.Select id="print-type" value={documentType} onChange={(e) => setDocumentType(e.target.value)}>
            <option value="">comes later</option>
            {[...usual, ...others].map((t) => (
              <option key={t.key} value={t.key}>
                {t.label}
              </option>
            ))}
          </Form.Select>
          {kind === "label" ? (
            <div className="mt-3">
              <Form.Label htmlFor="print-used">Labels already used on the first sheet (24 per sheet)</Form.Label>
              <Form.Control
                id="print-used"
                type="number"
                min={0}
                max={23}
                value={used}
                onChange={(e) => setUsed(Math.max(0, Math.min(23, Math.round(Number(e.target.value) || 0))))}
              />
            </div>
          ) : null}
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={onHide}>
            Cancel
          </Button>
          <Button type="submit" disabled={print.isPending}>
            {print.isPending ? "Preparing …" : "Print"}
          </Button>
        </Modal.Footer>
      </Form>
    </Dialog>
  );
}
