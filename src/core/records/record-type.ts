import { z } from "zod";
import { draftRulesSchema } from "../drafts/draft-rules.ts";
import { keySchema } from "../shared/key.ts";

/** What a field of a record or property of a document can hold. */
export const fieldKinds = ["text", "number", "amount", "date", "yesNo", "choice"] as const;
export type FieldKind = (typeof fieldKinds)[number];

export const fieldSchema = z.object({
  key: keySchema,
  label: z.string().min(1).max(60),
  kind: z.enum(fieldKinds),
  choices: z.array(z.string().min(1).max(80)).optional(),
  required: z.boolean().default(false),
});
export type Field = z.infer<typeof fieldSchema>;

/** A kind of business record: what its records are called, hold and hang below. */
export const recordTypeSchema = z.object({
  key: keySchema,
  label: z.string().min(1).max(60),
  plural: z.string().min(1).max(60),
  kind: z.enum(["standing", "passing"]),
  icon: z.string().min(1).max(40),
  /** Short form on chain chips, such as "Booking". */
  short: z.string().min(1).max(24),
  fields: z.array(fieldSchema),
  /** Record types a record of this type may sit beneath. */
  parent: z.array(keySchema).default([]),
  /** The date field that the record's own date is taken from when none is given. */
  dateField: keySchema.optional(),
  /** Whether and how its records are made here from documents; absent for those that only come from the business system. */
  draft: draftRulesSchema.optional(),
  order: z.number().int(),
});
export type RecordType = z.infer<typeof recordTypeSchema>;

/** A field value as it is kept: dates as YYYY-MM-DD, numbers and amounts as decimal strings with a point. */
export type FieldValue = string | boolean | null;
export type FieldValues = Readonly<Record<string, FieldValue>>;
