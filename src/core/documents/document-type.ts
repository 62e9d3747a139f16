import { z } from "zod";
import { fieldSchema } from "../records/record-type.ts";
import { keySchema } from "../shared/key.ts";

/** A kind of document: its properties, how it is named, and where it may be clipped. */
export const documentTypeSchema = z.object({
  key: keySchema,
  label: z.string().min(1).max(60),
  plural: z.string().min(1).max(60),
  icon: z.string().min(1).max(40),
  properties: z.array(fieldSchema),
  /** Name pattern of the title, such as "{documentType} {documentNumber|record.key}". */
  titlePattern: z.string().min(1).max(200),
  /** Record types it is usually clipped to; the sheet offers it first there. */
  usualFor: z.array(keySchema).default([]),
  confidential: z.boolean().default(false),
  order: z.number().int(),
});
export type DocumentType = z.infer<typeof documentTypeSchema>;
