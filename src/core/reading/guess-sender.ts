import { foldText } from "../shared/fold-text.ts";
import type { Phrase, ReadPage } from "./page-lines.ts";
import type { Reading } from "./reading.ts";

/** Forms of companies, folded, as they end a name. */
const forms =
  /\b(ltd|limited|llp|plc|inc|llc|gmbh|mbh|ag|kg|ohg|ug|e k|ek|gbr|co|sarl|s a r l|sa|s a|sas|eurl|snc|bv|nv|aps|as|ab|oy|cooperative|co-op|council|verein|e v)\b\.?$/;
const notNames =
  /\b(invoice|rechnung|facture|statement|note|order|page|date|tel|fax|www|http|iban|vat|total|certificate|list|tax|copy|customer|bill to|ship to|deliver to|attention|attn)\b|@|\d{3}/;

/**
 * The sender's name as the top of the first page shows it: large, near the top, with the form of a company, and not one of ours. Only a guess: an
 * account that is known by its identifiers goes before it. Null when nothing looks like a name.
 */
export function guessSender(pages: readonly ReadPage[], ourselves: readonly string[]): Reading | null {
  const first = pages[0];
  if (!first) return null;
  const ours = ourselves.map(foldText);
  const options = first.lines
    .flatMap((line) => line)
    .filter((p) => p.box[1] < first.height * 0.4)
    .map((p) => ({ phrase: p, score: scoreOf(p, first, ours) }))
    .filter((o) => o.score > 0)
    .sort((a, b) => b.score - a.score || a.phrase.box[1] - b.phrase.box[1]);
  const [best, next] = options;
  if (!best) return null;
  const certainty = Math.max(0.3, Math.min(0.85, 0.35 + (best.score - (next?.score ?? 0)) * 0.25));
  return {
    field: "party",
    value: best.phrase.text.replace(/[,;:]$/, ""),
    certainty: Math.round(certainty * 1000) / 1000,
    page: first.isShown ? first.number : null,
    box: first.isShown ? best.phrase.box : null,
    text: best.phrase.text,
    label: null,
    others: [],
    from: first.isDrawn ? "page" : "text",
  };
}

function scoreOf(phrase: Phrase, page: ReadPage, ours: readonly string[]): number {
  const folded = foldText(phrase.text).replace(/[.,]/g, "");
  if (phrase.words.length > 7 || !/\p{L}{3}/u.test(phrase.text) || notNames.test(folded)) return 0;
  if (ours.some((o) => folded.includes(o) || o.includes(folded))) return 0;
  const hasForm = forms.test(folded);
  // Typed text has no large letters and no head of a page: a greeting or the first cell of a table is as high up as a name.
  if (!page.isDrawn && !hasForm) return 0;
  const size = phrase.box[3] / page.letter;
  return (
    (hasForm ? 1 : 0) +
    Math.min(1.2, Math.max(0, size - 1) * 1.2) +
    (1 - phrase.box[1] / (page.height * 0.4)) * 0.7 +
    (phrase.words.length >= 2 ? 0.2 : 0)
  );
}
