import { z } from "zod";

/** How far a document may be from its record before it is said to differ. */
export const toleranceSchema = z.object({
  /** Share of a price or total, 0.02 for two in a hundred. */
  share: z.number().min(0).max(0.5).default(0.02),
  /** Amount of the paper's currency that is let pass whatever its share. */
  amount: z
    .string()
    .regex(/^\d{1,9}(\.\d{1,2})?$/, "must be an amount like 5.00")
    .default("5.00"),
  /** Share of a quantity: bulk goods are never delivered to the litre. */
  quantityShare: z.number().min(0).max(0.5).default(0.005),
});
export type Tolerance = z.infer<typeof toleranceSchema>;
export const startingTolerance: Tolerance = toleranceSchema.parse({});

/** Pennies: amounts are told apart to the hundredth. */
const PENNY = 0.005;

/** How two amounts stand to each other: the same, within what is let pass, or too far apart. */
export function amountsAgree(paper: number, record: number, tolerance: Tolerance): "same" | "within" | "apart" {
  const apart = Math.abs(paper - record);
  if (apart < PENNY) return "same";
  return apart <= Math.max(Number(tolerance.amount), Math.abs(record) * tolerance.share) + 1e-9 ? "within" : "apart";
}

/** The same for prices: only the share counts, a price of pence is not let pass for being small. */
export function pricesAgree(paper: number, record: number, tolerance: Tolerance): "same" | "within" | "apart" {
  const apart = Math.abs(paper - record);
  // Documents print prices to two places, records keep more.
  if (apart <= PENNY + 1e-9) return "same";
  return apart <= Math.abs(record) * tolerance.share + 1e-9 ? "within" : "apart";
}

/** The same for quantities. */
export function quantitiesAgree(paper: number, record: number, tolerance: Tolerance): "same" | "within" | "apart" {
  const apart = Math.abs(paper - record);
  if (apart < 1e-9) return "same";
  return apart <= Math.abs(record) * tolerance.quantityShare + 1e-9 ? "within" : "apart";
}
