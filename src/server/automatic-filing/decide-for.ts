import { CHECK_BELOW, propertiesFromReadings, readingOfProperty } from "#core/documents/fill-from-readings.ts";
import { prefillProperties } from "#core/documents/prefill-properties.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import { type Decided, decideByItself, type NotByItself } from "#core/automatic-filing/automatic-filing-rule.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { loadComparison } from "../comparing/load-comparison.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { loadDocumentType } from "../records/load-types.ts";

/** What the program makes of a document: what it would file it as, and what keeps it from doing so by itself. */
export interface Decision {
  readonly queue: string;
  readonly documentType: string;
  readonly decided: Decided | null;
  readonly why: NotByItself | null;
}

/** Works out what the program would do with an arrival, with somebody's rights. Null when nothing was found in it yet, or the type is not known. */
export async function decideFor(actor: Actor, id: ArrivalId): Promise<Decision | null> {
  const arrival = await loadArrival(actor, id, { isProgram: true });
  const type = arrival?.proposedType ? await loadDocumentType(arrival.proposedType.type) : null;
  if (!arrival || !type) return null;
  const base = { queue: arrival.queue, documentType: type.key };
  const best = arrival.suggestions[0];
  const record = best ? await findVisibleRecord(actor, best.type, best.key, best.company) : null;
  if (!best || !record) return { ...base, decided: null, why: "not-sure" };
  const read = propertiesFromReadings(type.properties, arrival.readings);
  const properties = prefillProperties(type.properties, [{ ...record, fields: record.fields as FieldValues }], read);
  const isWhole = fieldValuesSchema(type.properties).safeParse(properties).success;
  const unsure = type.properties.filter((p) => {
    const reading = read[p.key] === undefined ? null : readingOfProperty(p.key, arrival.readings);
    return reading !== null && reading.certainty < CHECK_BELOW && reading.from !== "person";
  });
  const named = { company: best.company, type: best.type, key: best.key };
  const comparison = await loadComparison(actor, id, { ...named, documentType: type.key });
  return {
    ...base,
    decided: { documentType: type.key, record: named, properties },
    why: decideByItself({
      verdict: best.verdict,
      clashes: best.clashes.length,
      doubts: arrival.doubts.length,
      typeCertainty: arrival.proposedType?.certainty ?? null,
      hasSame: arrival.duplicates.length > 0 || arrival.twin !== null,
      cuts: arrival.proposedCuts.length,
      hasProblem: arrival.problem !== null,
      unsureProperties: unsure.length + (isWhole ? 0 : 1),
      compared: comparison.ok ? (comparison.value.compared?.verdict ?? null) : null,
    }),
  };
}
