"use client";
import { type DraftSource, isUnsure } from "#core/drafts/fill-draft.ts";
import type { Field, FieldValue, FieldValues } from "#core/records/record-type.ts";
import { FieldInput } from "../arrivals/field-input.tsx";
import type { Numbers } from "../pages/marks.ts";

/** The fields of a record that is made here, each with where its value came from. */
export function DraftFields({
  fields,
  values,
  sources,
  numbers,
  wrong,
  onValue,
  onEnter,
  idPrefix = "draft",
}: {
  fields: readonly Field[];
  values: FieldValues;
  sources: Readonly<Record<string, DraftSource>>;
  numbers?: Numbers<DraftSource>;
  wrong: ReadonlyMap<string, string>;
  onValue: (key: string, value: FieldValue) => void;
  onEnter?: (key: string | null) => void;
  /** Tells the fields of two records on one page apart. */
  idPrefix?: string;
}) {
  return (
    <>
      {fields.map((f) => {
        const source = sources[f.key];
        const number = source ? numbers?.get(source) : undefined;
        const unsure = isUnsure(source);
        return (
          <div
            key={f.key}
            className={`field-row ${number !== undefined || unsure ? "has-number" : ""} ${unsure ? "is-unsure" : ""}`}
            onFocus={() => onEnter?.(f.key)}
            onBlur={() => onEnter?.(null)}
          >
            <label htmlFor={`${idPrefix}-${f.key}`}>
              {f.label}
              {f.required ? (
                <span className="text-2" title="needed">
                  {" "}
                  *
                </span>
              ) : null}
            </label>
            <div className="numbered">
              <FieldInput
                id={`${idPrefix}-${f.key}`}
                field={f}
                value={values[f.key] ?? null}
                wrong={wrong.has(f.key)}
                onChange={(v) => onValue(f.key, v)}
              />
              {unsure && source?.from === "paper" ? (
                <span className="check" title={`Read as ${source.text}, uncertain`}>
                  check
                </span>
              ) : null}
              {number !== undefined && source?.from === "paper" ? (
                <span className="place-number" title={`Read on page ${source.page ?? 1}: ${source.text}`}>
                  {number}
                </span>
              ) : null}
            </div>
            {wrong.has(f.key) ? (
              <div className="problem">
                {f.label} {wrong.get(f.key)}.
              </div>
            ) : source?.from === "record" && values[f.key] ? (
              <div className="others small text-2">from {source.key}</div>
            ) : null}
          </div>
        );
      })}
    </>
  );
}
