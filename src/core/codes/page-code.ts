import { z } from "zod";

/** A barcode on a page: its format, its text, and its box in points from the top left of the page as displayed. */
export const pageCodeSchema = z.object({
  format: z.string(),
  text: z.string(),
  box: z.tuple([z.number(), z.number(), z.number(), z.number()]).readonly(),
});
export type PageCode = z.infer<typeof pageCodeSchema>;

/** Characters of a barcode's text that are kept. */
export const CODE_TEXT_MAX = 500;
/** Barcodes of one page that are kept. */
export const CODES_PAGE_MAX = 50;
