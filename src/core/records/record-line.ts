import { z } from "zod";

const decimal = z
  .union([z.string(), z.number()])
  .transform(String)
  .refine((t) => /^-?\d{1,15}(\.\d{1,6})?$/.test(t), "must be a number like 12.5");

/** A line of an order, receipt or invoice, as the business system tells it. */
export const recordLineSchema = z.object({
  /** Number of the article, where it has one. */
  item: z.string().trim().max(60).optional(),
  text: z.string().trim().min(1).max(300),
  quantity: decimal.optional(),
  unit: z.string().trim().max(20).optional(),
  price: decimal.optional(),
  amount: decimal.optional(),
});
export type RecordLine = z.infer<typeof recordLineSchema>;

/** Lines kept of one record. */
export const LINES_MAX = 2000;
export const recordLinesSchema = z.array(recordLineSchema).max(LINES_MAX);

/** Lines of a record as they were kept, checked on the way in; none for what is none. */
export function linesOf(value: unknown): readonly RecordLine[] {
  const parsed = recordLinesSchema.safeParse(value ?? []);
  return parsed.success ? parsed.data : [];
}
