import { CHECK_BELOW, FILLS_FROM, readingOfProperty } from "../documents/fill-from-readings.ts";
import type { Reading } from "../reading/reading.ts";
import type { PaperLine } from "../reading/read-rows.ts";
import type { RecordLine } from "../records/record-line.ts";
import type { Field, FieldValue, FieldValues, RecordType } from "../records/record-type.ts";

/** Where a draft's value came from. */
export type DraftSource =
  | {
      readonly from: "paper";
      readonly page: number | null;
      readonly box: readonly [number, number, number, number] | null;
      readonly text: string;
      readonly certainty: number;
    }
  | { readonly from: "record"; readonly key: string }
  | { readonly from: "person" };

/** A record that the draft belongs to or follows. */
export interface DraftNeighbour {
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly currency: string | null;
  readonly fields: FieldValues;
}

/** Fields that a record which follows another takes from it; all the rest are the paper's own. */
const inherited = new Set(["vessel", "route", "sailingDate", "description", "currency"]);
/** Fields of a draft that documents call otherwise. */
const readAs: Readonly<Record<string, string>> = { name: "party" };

/**
 * The values of a draft's fields, from what was read off its document first, then from the record it follows; each with where it came from. Pure; what nobody
 * says is left out.
 */
export function fillDraft(
  type: RecordType,
  readings: readonly Reading[],
  follows: DraftNeighbour | null,
): { readonly values: FieldValues; readonly sources: Readonly<Record<string, DraftSource>> } {
  const values: Record<string, FieldValue> = {};
  const sources: Record<string, DraftSource> = {};
  for (const field of type.fields) {
    // The order's own number is surer than what was read of it.
    if (field.key === "orderNumber" && follows) {
      values[field.key] = follows.key;
      sources[field.key] = { from: "record", key: follows.key };
      continue;
    }
    const reading = readingOfProperty(readAs[field.key] ?? field.key, readings);
    if (reading && (reading.certainty >= FILLS_FROM || reading.from === "person")) {
      values[field.key] = reading.value;
      sources[field.key] = {
        from: "paper",
        page: reading.page,
        box: reading.box,
        text: reading.text,
        certainty: reading.from === "person" ? 1 : reading.certainty,
      };
      continue;
    }
    const known =
      inherited.has(field.key) && follows ? (follows.fields[field.key] ?? (field.key === "currency" ? follows.currency : null)) : null;
    if (known !== null && known !== undefined && follows) {
      values[field.key] = known;
      sources[field.key] = { from: "record", key: follows.key };
    }
  }
  return { values, sources };
}

/** Whether a value should be looked at before it is sent. */
export const isUnsure = (source: DraftSource | undefined): boolean => source?.from === "paper" && source.certainty < CHECK_BELOW;

/** The title a draft is given when nobody words one: the account's name and its own number or words. */
export function draftTitle(type: RecordType, values: FieldValues, parent: string | null): string {
  const own = (type.draft?.titleFrom ?? []).map((k) => values[k]).find((v): v is string => typeof v === "string" && v !== "");
  return [type.kind === "standing" ? null : parent, own ?? type.label]
    .filter((p) => p !== null)
    .join(" ")
    .slice(0, 300);
}

/** Fields of a draft as they are checked: those that it needs are required. */
export function draftFields(type: RecordType): readonly Field[] {
  const needs = new Set(type.draft?.needs ?? []);
  return type.fields.map((f) => (needs.has(f.key) ? { ...f, required: true } : f));
}

/** The paper's lines as those of a record. */
export function linesOfPaper(lines: readonly PaperLine[]): readonly RecordLine[] {
  return lines.map((l) => ({
    text: l.text,
    ...(l.quantity === null ? {} : { quantity: l.quantity }),
    ...(l.unit === null ? {} : { unit: l.unit.slice(0, 20) }),
    ...(l.price === null ? {} : { price: l.price }),
    ...(l.amount === null ? {} : { amount: l.amount }),
  }));
}
