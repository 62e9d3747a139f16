import { tidy } from "./derived-readings.ts";
import { foldLabel } from "./labels.ts";
import { type Box, boxAround, type Phrase, type ReadPage } from "./page-lines.ts";
import { parsePeriod } from "./parse-period.ts";
import type { Reading } from "./reading.ts";
import { type Habits } from "./spot-values.ts";

/** Labels of the time that goods or services were delivered in, folded. */
const labels = new Set(
  (
    "delivery period|period of delivery|supply period|period of supply|service period|period of service|performance period|period of performance|billing period|invoice period|" +
    "period covered|period charged|charge period|hire period|rental period|period of hire|period|leistungszeitraum|lieferzeitraum|liefer und leistungszeitraum|liefer/leistungszeitraum|" +
    "abrechnungszeitraum|rechnungszeitraum|zeitraum|mietzeitraum|periode de livraison|periode de prestation|periode de facturation|periode facturee|periode de service|periode|periode de location"
  ).split("|"),
);
/** Words of the longest of them. */
const WORDS_MAX = 4;
/** Words that a period is written with. */
const PERIOD_WORDS = 10;
/** A label that says only "period" may be that of something else. */
const plain = new Set(["period", "zeitraum", "periode"]);

/**
 * The time that goods or services were delivered in, where a label announces one: its first day as deliveryDate, its last as deliveryUntil. Not where the
 * document says a single day of delivery. Pure.
 */
export function periodReadings(pages: readonly ReadPage[], habits: Habits, readings: readonly Reading[]): readonly Reading[] {
  if (readings.some((r) => r.field === "deliveryDate")) return [];
  for (const page of pages)
    for (const [at, line] of page.lines.entries())
      for (const [index, phrase] of line.entries()) {
        const label = labelOf(phrase);
        if (!label) continue;
        // In its own phrase, in the next one on its line, or in the one beneath.
        const rest = phrase.words.slice(label.count);
        const next = rest.length > 0 ? null : (line[index + 1] ?? null);
        const beneath = rest.length > 0 || next !== null ? null : below(page, at, phrase);
        const words = rest.length > 0 ? rest : (next ?? beneath)?.words;
        const found = words ? periodIn(words, habits) : null;
        if (!found) continue;
        const certainty = tidy((plain.has(label.folded) ? 0.8 : 0.95) - (page.fromPicture ? 0.05 : 0));
        const common = {
          certainty,
          page: page.isShown ? page.number : null,
          box: page.isShown ? found.box : null,
          text: found.text,
          label: label.text,
          others: [],
          from: page.isDrawn ? ("page" as const) : ("text" as const),
        };
        return [
          { field: "deliveryDate", value: found.from, ...common },
          { field: "deliveryUntil", value: found.to, ...common },
        ];
      }
  return [];
}

/** The longest label that a phrase begins with. */
function labelOf(phrase: Phrase): { readonly folded: string; readonly text: string; readonly count: number } | null {
  for (let count = Math.min(WORDS_MAX, phrase.words.length); count > 0; count--) {
    const text = phrase.words
      .slice(0, count)
      .map((w) => w.text)
      .join(" ");
    const folded = foldLabel(text);
    if (labels.has(folded)) return { folded, text, count };
  }
  return null;
}

/** The longest run of words from the first on that is a period. */
function periodIn(
  words: Phrase["words"],
  habits: Habits,
): { readonly from: string; readonly to: string; readonly text: string; readonly box: Box } | null {
  for (let count = Math.min(PERIOD_WORDS, words.length); count > 0; count--) {
    const run = words.slice(0, count);
    const text = run.map((w) => w.text).join(" ");
    const period = parsePeriod(text, habits.order);
    if (period) return { ...period, text, box: boxAround(run.map((w) => w.box)) };
  }
  return null;
}

function below(page: ReadPage, line: number, phrase: Phrase): Phrase | null {
  return page.lines[line + 1]?.find((p) => Math.abs(p.box[0] - phrase.box[0]) < page.letter * 2) ?? null;
}
