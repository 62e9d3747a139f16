"use client";
import { readingOfProperty } from "#core/documents/fill-from-readings.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import { type Reading, type ReadingField, readingFields } from "#core/reading/reading.ts";
import { type PointAt, pointing } from "../comparing/pointing.ts";
import { amountText, dayText } from "../kit/words.ts";
import { readingWords } from "./reading-words.ts";

/** What says nothing to a person: the language they see, and a period's end, which stands beside its beginning. */
const left = new Set<ReadingField>(["language", "deliveryUntil"]);
/** Below this it is more a guess than something that was read. */
const SHOWN_FROM = 0.5;

/** What was read off the document beside the properties of its type: each points at where it stands. */
export function SheetMore({ readings, type, onPoint }: { readings: readonly Reading[]; type: DocumentType | undefined; onPoint: PointAt }) {
  const inSheet = new Set((type?.properties ?? []).flatMap((p) => readingOfProperty(p.key, readings) ?? []));
  const until = readings.find((r) => r.field === "deliveryUntil");
  const currency = readings.find((r) => r.field === "currency")?.value ?? null;
  const more = [...readings]
    .filter((r) => !inSheet.has(r) && !left.has(r.field) && r.certainty >= SHOWN_FROM)
    .sort((a, b) => readingFields.indexOf(a.field) - readingFields.indexOf(b.field));
  if (more.length === 0) return null;
  return (
    <section>
      <details className="also-read" onToggle={() => onPoint(null)} onMouseLeave={() => onPoint(null)} onBlur={() => onPoint(null)}>
        <summary>Also read: {more.length}</summary>
        <dl>
          {more.map((r, i) => (
            <div key={i} {...pointing(r, onPoint)}>
              <dt>{r.field === "taxAtRate" ? `${readingWords[r.field]} ${rateText(r.value)}` : readingWords[r.field]}</dt>
              <dd className={isFigure.has(r.field) ? "mono" : undefined}>{textOf(r, currency, until)}</dd>
            </div>
          ))}
        </dl>
      </details>
    </section>
  );
}

const isFigure = new Set<ReadingField>([
  "vatNumber",
  "iban",
  "documentNumber",
  "net",
  "tax",
  "taxAtRate",
  "total",
  "orderReference",
  "yourReference",
  "customerNumber",
  "batch",
]);

/** "20 %", "5.5 %". */
const rateText = (value: string): string => `${Number(value.split(" ")[0])} %`;

function textOf(reading: Reading, currency: string | null, until: Reading | undefined): string {
  const { field, value } = reading;
  if (field === "net" || field === "tax" || field === "total") return amountText(value, currency);
  if (field === "taxAtRate") return amountText(value.split(" ")[1], currency);
  if (field === "deliveryDate" && until) return `${dayText(value)} to ${dayText(until.value)}`;
  return /^\d{4}-\d{2}-\d{2}$/.test(value) ? dayText(value) : value;
}
