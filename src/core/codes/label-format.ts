import { z } from "zod";

/** A barcode of the business system's own, told by its text: its key is what stands in brackets, or all of it. */
export const labelFormatSchema = z.object({
  pattern: z.string().min(1).max(120),
  recordType: z.string().min(1).max(40),
  /** The company whose records are meant; null for the paper's own. */
  company: z.string().max(20).nullable(),
  /** The document type of what carries it; null when it says nothing about that. */
  documentType: z.string().max(40).nullable(),
  /** Whether a page with it begins a new document. */
  begins: z.boolean(),
});
export type LabelFormat = z.infer<typeof labelFormatSchema>;
export const labelFormatsSchema = z.array(labelFormatSchema).max(50);

/** Longest text of a barcode that a pattern is tried on. */
const TEXT_MAX = 64;
/**
 * What a pattern may hold: letters and digits, `\d \w`, sets, counts of these, and at most one pair of brackets without a count. No brackets
 * inside brackets and no counted brackets, so that no text can make it run for long.
 */
const PIECE = String.raw`(?:\\[dw.\-/\\]|\[[^\][\\]{1,40}\]|[A-Za-z0-9 :/_#-]|\.)(?:\{\d{1,2}(?:,\d{1,2})?\}|[?+*])?`;
const WHOLE = new RegExp(String.raw`^\^?(?:${PIECE}){0,40}(?:\((?:${PIECE}){1,40}\))?(?:${PIECE}){0,40}\$?$`);

/** Whether a pattern may be used. Answers what is wrong with it in words, null when nothing is. */
export function wrongWithPattern(pattern: string): string | null {
  if (!/^[\x20-\x7e]+$/.test(pattern)) return "holds characters that no barcode pattern has";
  if (!WHOLE.test(pattern)) return "may hold letters, digits, \\d, \\w, sets like [A-Z], counts like {5}, and one pair of brackets";
  // Two open-ended counts side by side are what makes matching slow.
  if ((pattern.match(/[+*]|\{\d+,/g) ?? []).length > 2) return "has more than two counts without a fixed number";
  try {
    new RegExp(pattern);
    return null;
  } catch {
    return "is not a pattern";
  }
}

/** The first format that a barcode's text fits, and the key it names. */
export function matchLabel(text: string, formats: readonly LabelFormat[]): { readonly format: LabelFormat; readonly key: string } | null {
  if (text.length > TEXT_MAX) return null;
  for (const format of formats) {
    if (wrongWithPattern(format.pattern) !== null) continue;
    const whole = `^(?:${format.pattern.replace(/^\^/, "").replace(/\$$/, "")})$`;
    const found = new RegExp(whole).exec(text);
    if (found) return { format, key: found[1] ?? found[0] };
  }
  return null;
}
