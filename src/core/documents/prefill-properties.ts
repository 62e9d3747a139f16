import type { Field, FieldValues } from "../records/record-type.ts";

/** Record as far as prefilling reads it. */
export interface PrefillRecord {
  readonly key: string;
  readonly title: string;
  readonly type: string;
  readonly currency: string | null;
  readonly fields: FieldValues;
}

/**
 * Properties a document gets from the records it is clipped to: same key, first record that has a value wins.
 * A supplier's order number is the key of the order itself. What a person typed is never replaced: `typed` wins.
 */
export function prefillProperties(properties: readonly Field[], records: readonly PrefillRecord[], typed: FieldValues): FieldValues {
  const filled: Record<string, string | boolean | null> = {};
  for (const property of properties) {
    const own = typed[property.key];
    if (own !== undefined && own !== null) {
      filled[property.key] = own;
      continue;
    }
    filled[property.key] = records.map((r) => valueFrom(r, property.key)).find((v) => v !== null) ?? null;
  }
  return filled;
}

function valueFrom(record: PrefillRecord, property: string): string | boolean | null {
  if (property === "orderNumber" && ["purchaseOrder", "freightBooking"].includes(record.type)) return record.key;
  if (property === "accountNumber" && ["customerAccount", "supplierAccount", "bankAccount"].includes(record.type)) return record.key;
  if (property === "currency") return record.fields[property] ?? record.currency;
  return record.fields[property] ?? null;
}
