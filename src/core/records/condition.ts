import { z } from "zod";
import { foldText } from "../shared/fold-text.ts";
import type { FieldValues } from "./record-type.ts";

/** How a field is compared in a condition. */
export const comparisons = ["is", "isNot", "contains", "startsWith", "isEmpty", "isNotEmpty", "isBefore", "isFrom"] as const;
export type Comparison = (typeof comparisons)[number];

/** One condition on a record's field. Text is compared without regard to capitals and accents; days and numbers by their value. */
export const conditionSchema = z.object({
  field: z.string().min(1).max(80),
  compare: z.enum(comparisons),
  value: z.string().trim().max(200).default(""),
});
export type Condition = z.infer<typeof conditionSchema>;

/** Fields that every record has, beside those of its type. */
export const recordBasics = ["key", "title", "status", "date", "company"] as const;

/** A record as far as conditions and names speak of it. */
export interface ConditionedRecord {
  readonly company: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly date: string | null;
  readonly fields: FieldValues;
}

/** Whether a condition needs something to compare with. */
export const needsValue = (condition: Condition): boolean => !["isEmpty", "isNotEmpty"].includes(condition.compare);

/** Whether a record fits a condition. A field it does not have is empty. Never fails. */
export function fitsCondition(record: ConditionedRecord, condition: Condition): boolean {
  return fitsValue(recordValue(record, condition.field), condition);
}

/** Whether a value fits a condition; null is empty. */
export function fitsValue(given: string | null, condition: Condition): boolean {
  const value = given?.trim() ?? "";
  const [is, wanted] = [foldText(value), foldText(condition.value)];
  switch (condition.compare) {
    case "is":
      return is === wanted;
    case "isNot":
      return is !== wanted;
    case "contains":
      return is.includes(wanted);
    case "startsWith":
      return is.startsWith(wanted);
    case "isEmpty":
      return is === "";
    case "isNotEmpty":
      return is !== "";
    case "isBefore":
      return is !== "" && compareValues(value, condition.value) < 0;
    case "isFrom":
      return is !== "" && compareValues(value, condition.value) >= 0;
  }
}

/** Numbers by their size, days and everything else by their text. */
function compareValues(a: string, b: string): number {
  const [x, y] = [Number(a), Number(b)];
  if (a !== "" && b !== "" && Number.isFinite(x) && Number.isFinite(y)) return x - y;
  return a < b ? -1 : a > b ? 1 : 0;
}

/** A record's value as text: its own key, title and so on, else the field; null when it has none. */
export function recordValue(record: ConditionedRecord, field: string): string | null {
  switch (field) {
    case "key":
      return record.key;
    case "title":
      return record.title;
    case "status":
      return record.status;
    case "date":
      return record.date;
    case "company":
      return record.company;
    default:
      return fieldText(record.fields, field);
  }
}

/** A field's or property's value as text; null when there is none. */
export function fieldText(fields: FieldValues, field: string): string | null {
  const value = Object.hasOwn(fields, field) ? fields[field] : null;
  return value === null || value === undefined ? null : typeof value === "boolean" ? (value ? "yes" : "no") : value;
}
