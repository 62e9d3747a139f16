"use client";
import { type RefObject } from "react";
import { Form } from "react-bootstrap";
import { CHECK_BELOW, readingOfProperty } from "#core/documents/fill-from-readings.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import type { FieldValue, FieldValues } from "#core/records/record-type.ts";
import type { Reading } from "#core/reading/reading.ts";
import type { Numbers } from "../pages/marks.ts";
import { useMe } from "../people/me-context.tsx";
import { FieldInput } from "./field-input.tsx";

/** The document type and its properties, each with where on the page its value stands. */
export function SheetFields({
  box,
  typeKey,
  isTypeUnsure,
  typeWords,
  mainType,
  type,
  title,
  shownTitle,
  values,
  readings,
  numbers,
  wrong,
  tried,
  onType,
  onTitle,
  onValue,
  onEnter,
}: {
  box: RefObject<HTMLDivElement | null>;
  typeKey: string;
  /** A person has to confirm the type before the document is filed. */
  isTypeUnsure: boolean;
  /** What on the document decided it; nothing where its words as a whole did. */
  typeWords: readonly { readonly text: string }[];
  /** Record type of the main record. */
  mainType: string | undefined;
  type: DocumentType | undefined;
  title: string | null;
  shownTitle: string;
  values: FieldValues;
  readings: readonly Reading[];
  numbers: Numbers<Reading>;
  wrong: ReadonlyMap<string, string>;
  tried: boolean;
  onType: (key: string) => void;
  onTitle: (title: string | null) => void;
  onValue: (property: string, value: FieldValue) => void;
  /** The property that one is in; null for none. */
  onEnter: (property: string | null) => void;
}) {
  const { me, recordType } = useMe();
  const types = usualFirst(me.documentTypes, mainType);
  return (
    <section ref={box}>
      <div className="field-row">
        <label htmlFor="sheet-type">Document type</label>
        <div className="d-flex align-items-center gap-2">
          <Form.Select
            id="sheet-type"
            value={typeKey}
            isInvalid={tried && !type}
            onChange={(e) => onType(e.target.value)}
            className="fw-bold"
          >
            <option value="">Choose …</option>
            {types.usual.length > 0 ? (
              <optgroup label={`Usual for ${recordType(mainType ?? "")?.plural.toLowerCase() ?? "it"}`}>
                {types.usual.map((t) => (
                  <option key={t.key} value={t.key}>
                    {t.label}
                  </option>
                ))}
              </optgroup>
            ) : null}
            {types.others.length > 0 ? (
              <optgroup label={types.usual.length > 0 ? "Others" : "All"}>
                {types.others.map((t) => (
                  <option key={t.key} value={t.key}>
                    {t.label}
                  </option>
                ))}
              </optgroup>
            ) : null}
          </Form.Select>
          {isTypeUnsure ? <span className="chip amber">check</span> : null}
        </div>
        {typeWords.length > 0 ? <div className="others small text-2">read: {typeWords.map((w) => `“${w.text}”`).join(", ")}</div> : null}
      </div>
      {type ? (
        <>
          <div className="field-row">
            <label htmlFor="sheet-title">Title</label>
            <Form.Control id="sheet-title" value={title ?? shownTitle} onChange={(e) => onTitle(e.target.value || null)} maxLength={200} />
          </div>
          {type.properties.map((p) => {
            const reading = readingOfProperty(p.key, readings);
            const isRead = reading !== null && values[p.key] === reading.value;
            const number = isRead ? numbers.get(reading) : undefined;
            const isUnsure = isRead && reading.certainty < CHECK_BELOW && reading.from !== "person";
            return (
              <div
                key={p.key}
                className={`field-row ${number !== undefined || isUnsure ? "has-number" : ""} ${isUnsure ? "is-unsure" : ""}`}
                onFocus={() => onEnter(p.key)}
                onBlur={() => onEnter(null)}
              >
                <label htmlFor={`sheet-${p.key}`}>{p.label}</label>
                <div className="numbered">
                  <FieldInput
                    id={`sheet-${p.key}`}
                    field={p}
                    value={values[p.key] ?? null}
                    wrong={wrong.has(p.key)}
                    onChange={(value: FieldValue) => onValue(p.key, value)}
                  />
                  {isUnsure ? (
                    <span className="check" title={`Read as ${reading.text}, uncertain`}>
                      check
                    </span>
                  ) : null}
                  {number !== undefined ? (
                    <span className="place-number" title={`Read on page ${reading?.page ?? 1}: ${reading?.text ?? ""}`}>
                      {number}
                    </span>
                  ) : null}
                </div>
                {wrong.has(p.key) ? (
                  <div className="problem">
                    {p.label} {wrong.get(p.key)}.
                  </div>
                ) : isUnsure && reading.others.length > 0 ? (
                  <div className="others small">
                    or{" "}
                    {reading.others.slice(0, 3).map((o, i) => (
                      <button key={i} type="button" className="btn btn-quiet btn-sm p-0 mono" onClick={() => onValue(p.key, o.value)}>
                        {o.value}
                      </button>
                    ))}
                  </div>
                ) : null}
              </div>
            );
          })}
        </>
      ) : (
        <p className="text-2 mb-0">Choose a document type to see its properties.</p>
      )}
    </section>
  );
}

function usualFirst<T extends { readonly usualFor: readonly string[] }>(
  types: readonly T[],
  recordType: string | undefined,
): { usual: readonly T[]; others: readonly T[] } {
  const usual = recordType === undefined ? [] : types.filter((t) => t.usualFor.includes(recordType));
  return { usual, others: types.filter((t) => !usual.includes(t)) };
}
