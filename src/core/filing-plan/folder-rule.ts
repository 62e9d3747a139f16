import { z } from "zod";
import { conditionSchema, needsValue, recordBasics } from "../records/condition.ts";
import type { RecordType } from "../records/record-type.ts";
import { keySchema } from "../shared/key.ts";
import type { FieldError } from "../shared/result.ts";
import { fieldsOf, parsePattern } from "./name-pattern.ts";

const folderText = z.string().trim().max(120);
const patternText = z.string().trim().min(1).max(200);
const groupedBySchema = z.object({ field: z.string(), period: z.enum(["year", "month"]) });

/** Key of the connection that every set-up starts with. */
export const FIRST_CONNECTION = "companyFolders";

/** What is different for records that fit all its conditions; what it leaves out is as in the rule. */
export const variantSchema = z.object({
  when: z.array(conditionSchema).min(1).max(6),
  connection: z.string().max(40).optional(),
  /** False: straight below the root, though the rule puts the others inside a record above. */
  inside: z.literal(false).optional(),
  rootFolder: folderText.optional(),
  groupedBy: groupedBySchema.nullable().optional(),
  folderName: patternText.optional(),
});
export type Variant = z.infer<typeof variantSchema>;

/** For one record type: where its folders go and what they and their files are called. */
export const folderRuleSchema = z.object({
  kind: z.enum(["standing", "passing"]),
  /** The connection its folders are on. */
  connection: z.string().min(1).max(40).default(FIRST_CONNECTION),
  /** Inside the folder of the record above; `otherwise` is the folder for records that have none. Null: straight below the root. */
  inside: z.object({ otherwise: folderText }).nullable(),
  /** Folder that holds them all, may have steps: "Bookings", "Finance/Journals". May be empty when inside another. */
  rootFolder: folderText,
  groupedBy: groupedBySchema.nullable(),
  folderName: patternText,
  /** Field put behind the name of a record whose folder would be another's. */
  tellApart: z.string().nullable(),
  /** The first that fits decides; none fits: the rule as it is. */
  variants: z.array(variantSchema).max(20).default([]),
  /** Folders within a record's folder: one for each section, or for each document type. Null: none. */
  subFolders: z.enum(["section", "documentType"]).nullable().default(null),
  fileName: patternText,
  /** File names of single document types, where they differ. */
  fileNames: z.record(keySchema, patternText).default({}),
});
export type FolderRule = z.infer<typeof folderRuleSchema>;
/** A folder rule as it may be written: what has a usual value may be left out. */
export type FolderRuleInput = z.input<typeof folderRuleSchema>;

/** What a file name can be made of, beside the record's fields (as record.name) and the document's properties. */
export const documentBasics = ["title", "documentType", "code", "version", "filedOn"] as const;

/** What a rule may speak of. */
export interface RuleSurroundings {
  readonly connections?: readonly string[] | undefined;
  readonly documentTypes?: readonly string[] | undefined;
}

/**
 * Mistakes in a rule that its shape does not show: patterns that do not read, fields that the type does not have,
 * nothing that keeps records apart. Empty when the rule can be used.
 */
export function checkFolderRule(rule: FolderRule, type: RecordType, around: RuleSurroundings = {}): readonly FieldError[] {
  const errors: FieldError[] = [];
  const known = new Set<string>([...recordBasics, ...type.fields.map((f) => f.key)]);
  const wrong = (path: string, message: string): void => void errors.push({ path, message });
  const unknownField = (field: string): string => `${type.plural} have no field "${field}"`;
  const isDate = (field: string): boolean => field === "date" || type.fields.find((f) => f.key === field)?.kind === "date";
  const checkName = (path: string, text: string): void => {
    const pattern = parsePattern(text);
    if (!pattern.ok) return wrong(path, pattern.refusal.detail ?? "cannot be read");
    const fields = fieldsOf(pattern.value);
    for (const field of fields) if (!known.has(field)) wrong(path, unknownField(field));
    if (fields.length === 0) wrong(path, "needs at least one field, or all records would share a folder");
  };
  const checkFile = (path: string, text: string): void => {
    const file = parsePattern(text);
    if (!file.ok) return wrong(path, file.refusal.detail ?? "cannot be read");
    for (const field of fieldsOf(file.value)) {
      const recordField = field.startsWith("record.") ? field.slice("record.".length) : null;
      if (recordField !== null && !known.has(recordField)) wrong(path, unknownField(recordField));
    }
    if (fieldsOf(file.value).length === 0) wrong(path, "needs at least one field");
  };
  const checkConnection = (path: string, key: string | undefined): void => {
    if (key !== undefined && around.connections && !around.connections.includes(key)) wrong(path, `there is no connection "${key}"`);
  };
  checkConnection("connection", rule.connection);
  checkName("folderName", rule.folderName);
  checkFile("fileName", rule.fileName);
  for (const [documentType, text] of Object.entries(rule.fileNames)) {
    if (around.documentTypes && !around.documentTypes.includes(documentType))
      wrong(`fileNames.${documentType}`, `there is no document type "${documentType}"`);
    checkFile(`fileNames.${documentType}`, text);
  }
  if (rule.groupedBy && !isDate(rule.groupedBy.field)) wrong("groupedBy", "must be a date of the record");
  if (rule.tellApart !== null && !known.has(rule.tellApart)) wrong("tellApart", unknownField(rule.tellApart));
  if (rule.inside && type.parent.length === 0) wrong("inside", `${type.plural} have no parent record`);
  if (rule.inside && rule.inside.otherwise.trim() === "") wrong("inside", "choose a folder for records without a parent");
  if (!rule.inside && rule.rootFolder.trim() === "") wrong("rootFolder", "needs a folder");
  rule.variants.forEach((variant, i) => {
    const at = `variants.${i}`;
    for (const condition of variant.when) {
      if (!known.has(condition.field)) wrong(at, unknownField(condition.field));
      if (needsValue(condition) && condition.value === "") wrong(at, "a value to compare with is missing");
    }
    checkConnection(at, variant.connection);
    if (variant.folderName !== undefined) checkName(at, variant.folderName);
    if (variant.groupedBy && !isDate(variant.groupedBy.field)) wrong(at, "must be grouped by a date of the record");
    if ((variant.inside === false || !rule.inside) && (variant.rootFolder ?? rule.rootFolder).trim() === "") wrong(at, "needs a folder");
  });
  return errors;
}
