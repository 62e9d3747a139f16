import type { Field, FieldValues } from "../records/record-type.ts";
import type { Reading, ReadingField } from "../reading/reading.ts";

/** A reading that is less sure than this does not fill a property by itself; it is only offered. */
export const FILLS_FROM = 0.5;
/** Below this a person should look at what was filled in. */
export const CHECK_BELOW = 0.85;

/** The reading that a property of a document is filled from; null for those that documents do not say. */
export function readingOfProperty(property: string, readings: readonly Reading[]): Reading | null {
  const field: string = property === "orderNumber" ? "orderReference" : property;
  return (
    [...readings]
      .filter((r) => r.field === (field as ReadingField))
      .sort((a, b) => Number(b.from === "person") - Number(a.from === "person") || b.certainty - a.certainty)[0] ?? null
  );
}

/** Properties that a paper's readings fill. The order is left to the record that is chosen, which knows its own number. */
export function propertiesFromReadings(properties: readonly Field[], readings: readonly Reading[]): FieldValues {
  return Object.fromEntries(
    properties.flatMap((p) => {
      const reading = readingOfProperty(p.key, readings);
      if (!reading || (reading.certainty < FILLS_FROM && reading.from !== "person") || p.key === "orderNumber") return [];
      return [[p.key, reading.value] as const];
    }),
  );
}
