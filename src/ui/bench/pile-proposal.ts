import type { DocumentType } from "#core/documents/document-type.ts";
import { propertiesFromReadings } from "#core/documents/fill-from-readings.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import { TYPE_SHOWN_FROM, TYPE_SURE_FROM } from "#core/documents/type-certainty.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import type { ReadAnswer } from "#server/matching/load-suggestions.ts";
import { emptySheet, type PileSheet } from "./use-bench.ts";

/** What a pile's head shows: the sheet as a person left it, else what the program proposes for its pages. */
export interface PileState {
  readonly sheet: PileSheet;
  /** Certainty of the record and of the document type where the program proposed them; null where a person chose, or nothing is proposed. */
  readonly recordCertainty: number | null;
  readonly typeCertainty: number | null;
  /** Whether F files it: a person chose record and type, or the program is sure of both. */
  readonly isFiled: boolean;
  /** It has a record and a type, and a person has to confirm them first. */
  readonly needsCheck: boolean;
  /** What was read off its pages. */
  readonly readings: ReadAnswer["readings"];
}

/** How a pile stands. `found` is null while its pages are being read. Pure. */
export function pileState(sheet: PileSheet | undefined, found: ReadAnswer | null, types: readonly DocumentType[]): PileState {
  const readings = found?.readings ?? [];
  if (sheet?.isSettled) {
    const isFiled = sheet.asVersion || (sheet.record !== null && sheet.documentType !== null);
    return { sheet, recordCertainty: null, typeCertainty: null, isFiled, needsCheck: false, readings };
  }
  const best = found?.suggestions[0];
  const record = best && best.verdict !== "none" && best.verdict !== "alike" ? best : null;
  const proposed = found?.proposedType && found.proposedType.certainty >= TYPE_SHOWN_FROM ? found.proposedType : null;
  const type = types.find((t) => t.key === proposed?.type);
  const properties: FieldValues = type ? propertiesFromReadings(type.properties, readings) : {};
  const number = properties["documentNumber"];
  const isComplete = type !== undefined && fieldValuesSchema(type.properties).safeParse(properties).success;
  const isFiled =
    record?.verdict === "sure" && isComplete && (proposed?.certainty ?? 0) >= TYPE_SURE_FROM && (found?.doubts.length ?? 0) === 0;
  return {
    sheet: {
      ...emptySheet,
      record: record && { company: record.company, type: record.type, key: record.key, title: record.title },
      documentType: type?.key ?? null,
      number: typeof number === "string" ? number : "",
    },
    recordCertainty: record?.certainty ?? null,
    typeCertainty: type && proposed ? proposed.certainty : null,
    isFiled,
    needsCheck: !isFiled && record !== null && type !== undefined,
    readings,
  };
}
