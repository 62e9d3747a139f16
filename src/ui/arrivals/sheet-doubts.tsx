"use client";
import { ExclamationTriangle } from "react-bootstrap-icons";
import type { ReadingDoubt } from "#core/reading/reading.ts";

const words: Readonly<Record<ReadingDoubt["code"], string>> = {
  "sums-differ": "Net and VAT do not make the total",
  "due-before-date": "Due before it is dated",
  "day-or-month": "Day or month first? Nothing on the paper says",
  "structured-differs": "The page and the e-invoice it carries differ",
  "lines-differ": "The lines do not come to the net amount",
  "places-unclear": "Thousands or places? Nothing on the paper says",
};

/** What does not fit together on the paper, in a line each. */
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
