import { propertiesFromReadings } from "#core/documents/fill-from-readings.ts";
import { prefillProperties } from "#core/documents/prefill-properties.ts";
import { TYPE_SURE_FROM } from "#core/documents/type-certainty.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { refuse, type Result } from "#core/shared/result.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { fileWithoutSheets } from "../codes/file-without-sheets.ts";
import { type Filed, fileAway } from "../documents/file-away.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import type { FieldValues } from "#core/records/record-type.ts";

/**
 * Files an arrival by what the program is sure of: its first suggestion, its type, and what was read off it. Refuses not-sure where the program is not,
 * or something clashes, is doubtful or like a document that is there already; and whatever filing refuses.
 */
export async function fileAsSuggested(actor: Actor, id: ArrivalId): Promise<Result<Filed>> {
  const arrival = await loadArrival(actor, id);
  if (!arrival) return refuse("not-found");
  const best = arrival.suggestions[0];
  const type =
    arrival.proposedType && arrival.proposedType.certainty >= TYPE_SURE_FROM ? await loadDocumentType(arrival.proposedType.type) : null;
  if (
    best?.verdict !== "sure" ||
    !type ||
    arrival.doubts.length > 0 ||
    arrival.duplicates.length > 0 ||
    arrival.twin ||
    arrival.proposedCuts.length > 0
  )
    return refuse("not-sure");
  const record = await findVisibleRecord(actor, best.type, best.key, best.company);
  if (!record) return refuse("not-sure");
  const read = propertiesFromReadings(type.properties, arrival.readings);
  const properties = prefillProperties(type.properties, [{ ...record, fields: record.fields as FieldValues }], read);
  if (!fieldValuesSchema(type.properties).safeParse(properties).success) return refuse("not-sure");
  const clips = [{ company: best.company, type: best.type, key: best.key }];
  return fileWithoutSheets(actor, id, (pages) => fileAway(actor, pages, { documentType: type.key, clips, properties }));
}
