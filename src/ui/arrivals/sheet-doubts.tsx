"use client";
import { ExclamationTriangle } from "react-bootstrap-icons";
import type { ReadingDoubt } from "#core/reading/reading.ts";

const words: Readonly<Record<ReadingDoubt["code"], string>> = {
  "sums-differ": "Net plus VAT is not the total",
  "due-before-date": "Due date before document date",
  "day-or-month": "Day or month first? The document does not say",
  "structured-differs": "The page and its embedded e-invoice differ",
  "lines-differ": "The lines do not add up to the net amount",
  "places-unclear": "Thousands or decimals? The document does not say",
};

/** What does not fit together on the document, in a line each. */
export function SheetDoubts({ doubts }: { doubts: readonly ReadingDoubt[] }) {
  if (doubts.length === 0) return null;
  return (
    <section className="doubts" role="status">
      {doubts.map((d) => (
        <div key={d.code + d.detail}>
          <ExclamationTriangle size={14} aria-hidden="true" /> {words[d.code]}: <span className="mono">{d.detail}</span>
        </div>
      ))}
    </section>
  );
}
