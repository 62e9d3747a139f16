"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { type Tolerance, toleranceSchema } from "#core/comparing/tolerance.ts";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";

/** How far a document may be from its order before it is said to differ. */
export function ToleranceSettings() {
  const notices = useNotices();
  const client = useQueryClient();
  const known = useQuery({ queryKey: ["tolerance"], queryFn: ({ signal }) => apiGet<Tolerance>("/settings/tolerance", signal) });
  const [typed, setTyped] = useState<{ share?: string; amount?: string; quantityShare?: string }>({});
  const save = useMutation({
    mutationFn: (next: Tolerance) => apiSend("PUT", "/settings/tolerance", next),
    onSuccess: () => {
      setTyped({});
      notices.done("Saved", { more: "It applies to documents compared from now on." });
      void client.invalidateQueries({ queryKey: ["tolerance"] });
      void client.invalidateQueries({ queryKey: ["comparison"] });
    },
    onError: notices.wrong,
  });
  if (!known.data) return null;
  const percent = (share: number): string => String(Math.round(share * 10_000) / 100);
  const shown = { share: percent(known.data.share), amount: known.data.amount, quantityShare: percent(known.data.quantityShare), ...typed };
  const next = toleranceSchema.safeParse({
    share: Number(shown.share || "x") / 100,
    amount: shown.amount,
    quantityShare: Number(shown.quantityShare || "x") / 100,
  });
  const field = (key: keyof typeof shown, label: string, unit: string) => (
    <div className="field-row">
      <label htmlFor={`tolerance-${key}`}>{label}</label>
      <div className="d-flex align-items-center gap-2">
        <Form.Control
          id={`tolerance-${key}`}
          size="sm"
          className="mono"
          style={{ width: 110 }}
          inputMode="decimal"
          value={shown[key]}
          isInvalid={!next.success && next.error.issues.some((i) => i.path[0] === key)}
          onChange={(e) => setTyped((now) => ({ ...now, [key]: e.target.value }))}
        />
        <span className="text-2">{unit}</span>
      </div>
    </div>
  );
  return (
    <section className="mb-5" aria-labelledby="tolerance-title">
      <h2 id="tolerance-title" className="mb-1">
        Tolerances
      </h2>
      <p className="text-2">How far an invoice may differ from its order and still match. The larger of percentage and amount applies.</p>
      <div style={{ maxWidth: 560 }}>
        {field("share", "Prices and totals", "per cent")}
        {field("amount", "Totals also by", "in the document’s currency")}
        {field("quantityShare", "Quantities", "per cent")}
        {Object.keys(typed).length > 0 ? (
          <Button size="sm" disabled={!next.success || save.isPending} onClick={() => next.success && save.mutate(next.data)}>
            Save
          </Button>
        ) : null}
      </div>
    </section>
  );
}
