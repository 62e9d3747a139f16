"use client";
import { useQuery } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import { CheckLg, ExclamationTriangle, LayoutThreeColumns } from "react-bootstrap-icons";
import { comparedAs } from "#core/comparing/compared-as.ts";
import type { Comparison } from "#server/comparing/load-comparison.ts";
import { apiGet } from "../kit/api.ts";

/** What a document is laid beside: the record it is to be clipped to, as documents of its type are. */
export interface Beside {
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly documentType: string;
}

/** Asks for what comes of laying a waiting document beside its record; not `enabled` where documents of that type are not compared. */
export const comparisonQuery = (arrivalId: string, beside: Beside | null) => ({
  queryKey: ["comparison", arrivalId, beside],
  enabled: beside !== null && comparedAs(beside.documentType) !== null,
  staleTime: 15_000,
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    apiGet<Comparison>(`/arrivals/${arrivalId}/comparison?${new URLSearchParams({ ...beside }).toString()}`, signal),
});

/** What comes of laying a waiting document beside its record. */
export const useComparison = (arrivalId: string, beside: Beside | null) => useQuery(comparisonQuery(arrivalId, beside));

/** What came of comparing, in a sentence; the rest is one key away. */
export function ComparisonLine({ comparison, isOpen, onToggle }: { comparison: Comparison; isOpen: boolean; onToggle: () => void }) {
  const { sentence, compared } = comparison;
  if (!sentence || !compared) return null;
  const isWrong = sentence.tone === "wrong";
  return (
    <section className={`compared is-${sentence.tone}`} aria-label="Compared with the record">
      <div role={isWrong ? "status" : undefined}>
        {isWrong ? (
          <ExclamationTriangle size={14} aria-hidden="true" />
        ) : sentence.tone === "good" ? (
          <CheckLg size={14} aria-hidden="true" />
        ) : null}{" "}
        {sentence.text}
      </div>
      <Button variant="plain" size="sm" aria-expanded={isOpen} onClick={onToggle}>
        <LayoutThreeColumns size={13} aria-hidden="true" /> {isOpen ? "Close" : "Compare"} <kbd>C</kbd>
      </Button>
    </section>
  );
}
