import { z } from "zod";
import { keySchema } from "../shared/key.ts";

/** Whether and how records of a type may be made here from a document. */
export const draftRulesSchema = z.object({
  /** Fields without which it is not sent. */
  needs: z.array(keySchema).default([]),
  /** Document types that it is usually made from: the offer stands on them. */
  papers: z.array(keySchema).default([]),
  /** Fields whose values make its title, in this order, behind the account's name. */
  titleFrom: z.array(keySchema).default([]),
  /** Whether the paper's lines go with it. */
  lines: z.boolean().default(false),
});
export type DraftRules = z.infer<typeof draftRulesSchema>;
