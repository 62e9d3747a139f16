import { propertiesFromReadings } from "#core/documents/fill-from-readings.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import { TYPE_SHOWN_FROM, TYPE_SURE_FROM } from "#core/documents/type-certainty.ts";
import { prefillProperties } from "#core/documents/prefill-properties.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { apiSend } from "../kit/api.ts";
import type { Chosen, Named } from "./clip-to.tsx";
import type { SheetState, Wish } from "./kept-sheet.ts";
import { usualType } from "./usual-type.ts";

/** Names a clip within one sheet. */
export const clipOf = (r: Named): string => `${r.company} ${r.type} ${r.key}`;

/** The record that a sheet starts with: that which was said on the way in, else the one that the program proposes. */
export function startsWith(arrival: Pick<ArrivalAnswer, "tied" | "suggestions">): Named | null {
  const best = arrival.suggestions[0];
  return arrival.tied ?? (best && best.verdict !== "none" && best.verdict !== "alike" ? best : null);
}

/** The type of document that the program proposes, where it is sure enough to be chosen. */
export const chosenType = (arrival: Pick<ArrivalAnswer, "proposedType">): ArrivalAnswer["proposedType"] =>
  arrival.proposedType && arrival.proposedType.certainty >= TYPE_SHOWN_FROM ? arrival.proposedType : null;

/** The type that a sheet shows, by its key: what a person chose, else the program, else what is usual for the record; empty when nothing says. */
export function typeOfSheet(
  arrival: Pick<ArrivalAnswer, "proposedType" | "queue">,
  picked: string | null,
  main: Named | undefined,
  types: readonly DocumentType[],
): string {
  return picked ?? chosenType(arrival)?.type ?? (main ? usualType(types, main.type, arrival.queue) : "");
}

/** Whether a person still has to confirm the type that a sheet shows: the program is not sure of it, or it is only what is usual for the record. */
export const isTypeUnsure = (arrival: Pick<ArrivalAnswer, "proposedType">, picked: string | null, typeKey: string): boolean =>
  picked === null && typeKey !== "" && (chosenType(arrival)?.certainty ?? 0) < TYPE_SURE_FROM;

/** The values that a sheet shows: what a person typed goes before what the document says of itself, and that before what the record says. */
export function valuesOfSheet(
  arrival: Pick<ArrivalAnswer, "readings">,
  type: DocumentType | undefined,
  records: readonly Chosen[],
  typed: FieldValues,
): FieldValues {
  if (!type) return {};
  return prefillProperties(type.properties, records, { ...propertiesFromReadings(type.properties, arrival.readings), ...typed });
}

/** What a sheet asks for when it is filed as it stands. */
export function wishOfSheet(
  typeKey: string,
  records: readonly Chosen[],
  values: FieldValues,
  { reaches, title, shelf }: Pick<SheetState, "reaches" | "title" | "shelf">,
): Wish {
  return {
    documentType: typeKey,
    clips: records.map((r) => {
      const reach = reaches.get(clipOf(r));
      return { company: r.company, type: r.type, key: r.key, ...(reach ? { reach } : {}) };
    }),
    properties: values,
    ...(title ? { title } : {}),
    ...(records.length === 0 && shelf !== null ? { shelf } : {}),
  };
}

/** The place that a document will get. */
export interface Preview {
  readonly title: string;
  readonly place: { readonly folder: readonly string[]; readonly fileName: string; readonly unassigned: boolean };
  readonly sameName: boolean;
}

/** Asks for the place that a document would get. */
export const previewQuery = (arrival: string, wish: Wish) => ({
  queryKey: ["preview", arrival, wish],
  queryFn: ({ signal }: { signal: AbortSignal }) => apiSend<Preview>("POST", `/arrivals/${arrival}/preview`, wish, signal),
});
