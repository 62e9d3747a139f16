import { type Condition, fitsValue, recordValue, type ConditionedRecord, recordBasics } from "../records/condition.ts";
import type { FieldValues } from "../records/record-type.ts";
import type { ItemRule } from "./checklist-rules.ts";
import type { CheckedPaper } from "./checklist-state.ts";

/** A document as far as some rules ask: type, own date and the asked properties in their order; null where no rule asks for it. */
export type PaperDigest = readonly [documentType: string, documentDate: string | null, ...properties: (string | boolean | null)[]];

/**
 * What rules ask of a record and its documents. Most records of a type are alike in that, though they differ in everything else: what was worked out for
 * one holds for all with the same sign, on the same day, as long as nobody decided anything on them.
 */
export interface ChecklistDigest {
  /** Fields of the record that conditions and due dates speak of. */
  readonly fields: readonly string[];
  /** Types of documents that are asked for at all. */
  readonly documentTypes: readonly string[];
  /** Types whose documents count along the chain. */
  readonly alongTypes: readonly string[];
  /** Whether the types of the chain's other records matter. */
  readonly asksChain: boolean;
  /** Types whose own date matters. */
  readonly datedTypes: readonly string[];
  /** Properties that are asked for, and the types they are asked of. */
  readonly properties: readonly string[];
  readonly propertyTypes: readonly string[];
  /** Everything of the record's own values that decides how its items stand. */
  readonly signOf: (record: ConditionedRecord) => string;
}

/** Works out what rules ask for. Pure; once for many records. */
export function digestRules(rules: readonly ItemRule[]): ChecklistDigest {
  const conditions = distinct(
    rules.flatMap((r) => r.when.flatMap((w) => (w.on === "field" ? [{ field: w.field, compare: w.compare, value: w.value }] : []))),
  );
  const dueFields = distinct(rules.flatMap((r) => (r.due ? [r.due.field] : [])));
  const asking = rules.filter((r) => r.papersThat.length > 0 || r.validity?.kind === "property");
  const types = (from: readonly ItemRule[]): readonly string[] => distinct(from.flatMap((r) => r.documentTypes));
  const fits = conditions.map(rememberingFit);
  return {
    fields: distinct([...conditions.map((c) => c.field), ...dueFields]),
    documentTypes: distinct([...types(rules), ...rules.flatMap((r) => r.when.flatMap((w) => (w.on === "paper" ? [w.documentType] : [])))]),
    alongTypes: types(rules.filter((r) => r.along === "chain")),
    asksChain: rules.some((r) => r.when.some((w) => w.on === "chain")),
    datedTypes: types(rules.filter((r) => r.validity?.kind === "months")),
    properties: distinct(
      asking.flatMap((r) => [...r.papersThat.map((c) => c.field), ...(r.validity?.kind === "property" ? [r.validity.property] : [])]),
    ),
    propertyTypes: types(asking),
    signOf: (record) => {
      let sign = "";
      for (const fit of fits) sign += fit(record) ? "1" : "0";
      for (const field of dueFields) sign += `|${recordValue(record, field) ?? ""}`;
      return sign;
    },
  };
}

/** A record's values as they are asked for, as conditions want them. */
export function askedRecord(values: Readonly<Record<string, string | null>>): ConditionedRecord {
  const { company = null, key = null, title = null, status = null, date = null } = values;
  const basics: readonly string[] = recordBasics;
  const fields: FieldValues = Object.fromEntries(Object.entries(values).filter(([name]) => !basics.includes(name)));
  return { company: company ?? "", key: key ?? "", title: title ?? "", status, date, fields };
}

/** Documents of a digest as a checklist counts them; they have no ids of their own here, and need none. */
export function askedPapers(digest: ChecklistDigest, own: readonly PaperDigest[], along: readonly PaperDigest[]): readonly CheckedPaper[] {
  const paper = ([documentType, documentDate, ...values]: PaperDigest, id: number, isOwn: boolean): CheckedPaper => ({
    id,
    documentType,
    documentDate,
    properties: Object.fromEntries(digest.properties.map((p, i) => [p, values[i] ?? null])),
    isOwn,
  });
  return [...own.map((p, i) => paper(p, i + 1, true)), ...along.map((p, i) => paper(p, own.length + i + 1, false))];
}

/** Values that were compared before and are remembered, for each condition; days and kinds of goods come back again and again. */
const REMEMBERED = 2000;
function rememberingFit(condition: Condition): (record: ConditionedRecord) => boolean {
  const known = new Map<string | null, boolean>();
  return (record) => {
    const value = recordValue(record, condition.field);
    const before = known.get(value);
    if (before !== undefined) return before;
    if (known.size >= REMEMBERED) known.clear();
    const fit = fitsValue(value, condition);
    known.set(value, fit);
    return fit;
  };
}

function distinct<T>(values: readonly T[]): T[] {
  return [...new Map(values.map((v) => [JSON.stringify(v), v])).values()];
}
