import type { FieldKind } from "../records/record-type.ts";
import { mendIban, parseVatNumber } from "./identifiers.ts";
import { parseAmount } from "./parse-amount.ts";
import { parsePaperDay } from "./parse-paper-day.ts";

/**
 * What words that a person pointed at are worth for a field of some kind: a day, an amount without its currency, else the words as they stand without
 * a label's colon. Null when they are no such value.
 */
export function valueOfWords(kind: FieldKind, text: string): string | null {
  const clean = text
    .trim()
    .replace(/^[:#]+|[,;:]+$/g, "")
    .trim();
  if (clean === "") return null;
  if (kind === "date") {
    const words = clean.split(" ");
    // A label that was caught with it is left out: the longest run of words that is a day.
    for (let count = words.length; count > 0; count--)
      for (let from = 0; from + count <= words.length; from++) {
        const day = parsePaperDay(words.slice(from, from + count).join(" "))?.values[0];
        if (day !== undefined) return day;
      }
    return null;
  }
  if (kind === "amount" || kind === "number") {
    const bare = clean.replace(/[A-Z]{3}|[£€$]/g, "").trim();
    return parseAmount(bare)?.value ?? parseAmount(bare.split(" ").at(-1) ?? "")?.value ?? null;
  }
  if (kind === "yesNo" || kind === "choice") return null;
  return mendIban(clean) ?? parseVatNumber(clean) ?? clean.slice(0, 200);
}
