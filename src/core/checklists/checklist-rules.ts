import { z } from "zod";
import { conditionSchema, needsValue, recordBasics } from "../records/condition.ts";
import type { RecordType } from "../records/record-type.ts";
import type { DocumentType } from "../documents/document-type.ts";
import { keySchema } from "../shared/key.ts";
import type { FieldError } from "../shared/result.ts";

/** Items that rules may give a record type; the bits behind them are for items added by hand. */
export const RULE_ITEMS_MAX = 40;
/** Items added by hand on one record. */
export const OWN_ITEMS_MAX = 12;
/** Longest words of an item, letters. */
const WORDS_MAX = 160;

/** When an item applies: by a field of the record, by another document that is there or not, by a record of its chain that is there or not. */
export const whenSchema = z.discriminatedUnion("on", [
  conditionSchema.extend({ on: z.literal("field") }),
  z.object({ on: z.literal("paper"), documentType: keySchema, there: z.boolean() }),
  z.object({ on: z.literal("chain"), recordType: keySchema, there: z.boolean() }),
]);
export type When = z.infer<typeof whenSchema>;

/** What documents a record of a type must have: one item. */
export const itemRuleSchema = z.object({
  /** Names the item for good, also when its words change. */
  key: keySchema,
  /** Its place in the bits of completeness; given once and never again to another item of the type. */
  bit: z
    .number()
    .int()
    .min(0)
    .max(RULE_ITEMS_MAX - 1),
  label: z.string().trim().min(1).max(60),
  /** A document of any of these types counts. */
  documentTypes: z.array(keySchema).min(1).max(12),
  /** How many documents there ought to be. */
  count: z.number().int().min(1).max(50).default(1),
  /** What a paper's properties have to fit to count, such as signed. */
  papersThat: z.array(conditionSchema).max(4).default([]),
  /** All have to hold; none: it always applies. */
  when: z.array(whenSchema).max(6).default([]),
  /** So many days after a date of the record (before, when negative). Null: it has no due date. */
  due: z
    .object({ field: z.string().min(1).max(80), days: z.number().int().min(-3650).max(3650) })
    .nullable()
    .default(null),
  /** How long a document holds: until a day among its properties, or some months from its own date. Null: for ever. */
  validity: z
    .discriminatedUnion("kind", [
      z.object({ kind: z.literal("property"), property: keySchema }),
      z.object({ kind: z.literal("months"), months: z.number().int().min(1).max(600) }),
    ])
    .nullable()
    .default(null),
  /** Whether a clip settles it, or a person has to accept the document. */
  settledBy: z.enum(["clip", "person"]).default("clip"),
  /** Names of the roles that may accept; none: whoever may file such a document. */
  acceptedBy: z.array(z.string().max(60)).max(12).default([]),
  /** Whose documents count: the record's own, or those along its chain too. */
  along: z.enum(["own", "chain"]).default("own"),
  /** The words shown while it is missing. */
  missing: z.string().trim().max(WORDS_MAX).default(""),
});
export type ItemRule = z.infer<typeof itemRuleSchema>;

/** The checklist of a record type, in the order it is shown. */
export const checklistRulesSchema = z.object({ items: z.array(itemRuleSchema).max(RULE_ITEMS_MAX) });
export type ChecklistRules = z.infer<typeof checklistRulesSchema>;
/** Rules as they may be written: what has a usual value may be left out, and so may the bits of new items. */
export const checklistInputSchema = z.object({
  items: z.array(itemRuleSchema.partial({ bit: true })).max(RULE_ITEMS_MAX),
});
export type ChecklistInput = z.input<typeof checklistInputSchema>;

/**
 * Gives new items their bits. An item that was there before keeps its bit; one that was taken out leaves its bit unused for good while there are
 * others, so that nothing kept under it is taken for another item. `used` are all bits ever given to this type.
 */
export function giveBits(
  wanted: readonly (Omit<ItemRule, "bit"> & { readonly bit?: number | undefined })[],
  before: readonly ItemRule[],
  used: readonly number[],
): readonly ItemRule[] {
  const taken = new Set(used);
  const kept = new Map(before.map((i) => [i.key, i.bit]));
  const inUse = new Set(wanted.flatMap((w) => kept.get(w.key) ?? []));
  const free = Array.from({ length: RULE_ITEMS_MAX }, (_, bit) => bit);
  const next = (): number => {
    // When every bit was given once, those of items that are gone are given again.
    const bit = free.find((b) => !taken.has(b) && !inUse.has(b)) ?? free.find((b) => !inUse.has(b)) ?? 0;
    taken.add(bit);
    inUse.add(bit);
    return bit;
  };
  return wanted.map((w) => ({ ...w, bit: kept.get(w.key) ?? next() }));
}

/** Mistakes in rules that their shape does not show: fields, properties or types that are not there, items that cannot apply. Empty when they can be used. */
export function checkChecklist(
  rules: { readonly items: readonly Omit<ItemRule, "bit">[] },
  type: RecordType,
  around: { readonly documentTypes: readonly DocumentType[]; readonly recordTypes: readonly string[] },
): readonly FieldError[] {
  const errors: FieldError[] = [];
  const wrong = (path: string, message: string): void => void errors.push({ path, message });
  const known = new Set<string>([...recordBasics, ...type.fields.map((f) => f.key)]);
  const isDate = (field: string): boolean => field === "date" || type.fields.find((f) => f.key === field)?.kind === "date";
  const keys = new Set<string>();
  rules.items.forEach((item, i) => {
    const at = `items.${i}`;
    if (keys.has(item.key)) wrong(`${at}.key`, `there are two items "${item.key}"`);
    keys.add(item.key);
    const papers = item.documentTypes.flatMap((key) => around.documentTypes.find((t) => t.key === key) ?? []);
    for (const key of item.documentTypes)
      if (!around.documentTypes.some((t) => t.key === key)) wrong(`${at}.documentTypes`, `there is no document type "${key}"`);
    const hasProperty = (key: string): boolean => papers.some((t) => t.properties.some((p) => p.key === key));
    item.papersThat.forEach((c, n) => {
      if (!hasProperty(c.field)) wrong(`${at}.papersThat.${n}`, `none of these document types has a property "${c.field}"`);
      if (needsValue(c) && c.value === "") wrong(`${at}.papersThat.${n}`, "a value to compare with is missing");
    });
    item.when.forEach((w, n) => {
      const path = `${at}.when.${n}`;
      if (w.on === "field") {
        if (!known.has(w.field)) wrong(path, `${type.plural} have no field "${w.field}"`);
        if (needsValue(w) && w.value === "") wrong(path, "a value to compare with is missing");
      } else if (w.on === "paper") {
        if (!around.documentTypes.some((t) => t.key === w.documentType)) wrong(path, `there is no document type "${w.documentType}"`);
      } else if (!around.recordTypes.includes(w.recordType)) wrong(path, `there is no record type "${w.recordType}"`);
    });
    if (item.due && !isDate(item.due.field)) wrong(`${at}.due`, `must be counted from a date of ${type.plural.toLowerCase()}`);
    if (item.validity?.kind === "property" && !hasProperty(item.validity.property))
      wrong(`${at}.validity`, `none of these document types has a property "${item.validity.property}"`);
  });
  return errors;
}

/** Whether any item looks along the chain: then records of a chain are looked at together. */
export function looksAlongChain(rules: ChecklistRules): boolean {
  return rules.items.some((i) => i.along === "chain" || i.when.some((w) => w.on === "chain"));
}
