import type { LabelFormat } from "../codes/label-format.ts";
import { matchLabel } from "../codes/label-format.ts";
import { parseOwnCode } from "../codes/own-code.ts";
import type { PageCode } from "../codes/page-code.ts";
import { isBlank } from "../pages/measure-page.ts";
import type { Word } from "../pages/page-text.ts";
import { foldText } from "../shared/fold-text.ts";

/** What is known of one page of a bundle. */
export interface PageFacts {
  readonly number: number;
  readonly heightPoints: number;
  readonly words: readonly Word[];
  readonly codes: readonly PageCode[];
  readonly ink: number | null;
}

/** Where a bundle probably falls apart: after which page, how sure (0 to 1), and why, in words that point at what stands there. */
export interface ProposedCut {
  readonly afterPage: number;
  readonly certainty: number;
  readonly reason: string;
}

/** Less sure than this is not proposed. */
const PROPOSED_FROM = 0.5;
/** Share of a page, from its top, that counts as its heading. */
const HEADING_SHARE = 0.22;
/** Two headings that share fewer of their words are different. */
const SAME_HEADING = 0.3;
/** What stands in the heading of more pages than this share says nothing. */
const COMMON_FROM = 0.6;
/** With more blank pages than this share they are the backs of one-sided documents, and divide nothing. */
const BLANKS_ARE_BACKS = 0.25;
/** Words that stand above a paper's first page and say what it is. English, German, French. */
const TITLES = new Set(
  (
    "invoice rechnung facture statement kontoauszug releve reminder mahnung rappel quotation angebot devis confirmation bestaetigung bestatigung " +
    "confirmation order bestellung commande delivery lieferschein livraison packing packliste colisage manifest certificate zertifikat zeugnis " +
    "certificat credit gutschrift avoir receipt quittung recu claim report bericht rapport agreement vertrag contrat minutes protokoll letter"
  ).split(" "),
);

/**
 * Cuts for a bundle, at most one between two pages, in page order. A page counted "2 of 3" after "1 of 3" is never cut off, whatever else speaks
 * for it. Linear in the words of all pages.
 */
export function proposeCuts(pages: readonly PageFacts[], formats: readonly LabelFormat[] = []): readonly ProposedCut[] {
  const blanks = pages.map((p) => isBlank({ ink: p.ink, words: p.words.length }));
  const blanksDivide = blanks.filter(Boolean).length / Math.max(1, pages.length) <= BLANKS_ARE_BACKS;
  const counted = pages.map((p) => pageCount(p.words));
  const headings = withoutCommon(pages.map((p, i) => (blanks[i] ? null : headingOf(p))));
  const cuts: ProposedCut[] = [];
  for (let i = 0; i + 1 < pages.length; i++) {
    const [before, after] = [pages[i], pages[i + 1]];
    // A blank page itself begins nothing.
    if (!before || !after || (blanks[i + 1] && after.codes.length === 0)) continue;
    const lastFilled = pages.slice(0, i + 1).findLast((_, n) => !blanks[n]);
    const best = [
      byCode(after, formats),
      byCount(counted[i] ?? null, counted[i + 1] ?? null),
      // A blank page divides, unless the pages around it are a run of blanks: then only the last of them does.
      blanksDivide && blanks[i] && !blanks[i + 1] && i > 0 ? { certainty: 0.6, reason: `page ${before.number} is blank` } : null,
      byHeading(lastHeading(headings, i), headings[i + 1] ?? null),
    ].reduce((most, now) => (now && (!most || now.certainty > most.certainty) ? now : most), null);
    // What follows a cover sheet belongs to it, whatever it looks like.
    const goesOn =
      best !== null &&
      !best.sure &&
      ((lastFilled !== undefined && isDivider(lastFilled)) || continues(counted[i] ?? null, counted[i + 1] ?? null));
    if (best && !goesOn && best.certainty >= PROPOSED_FROM)
      cuts.push({ afterPage: before.number, certainty: best.certainty, reason: best.reason });
  }
  return cuts;
}

interface Reason {
  readonly certainty: number;
  readonly reason: string;
  /** Put there to divide: a count of pages does not speak against it. */
  readonly sure?: true;
}

function byCode(page: PageFacts, formats: readonly LabelFormat[]): Reason | null {
  for (const code of page.codes) {
    const own = parseOwnCode(code.text);
    if (own?.kind === "coverSheet") return { certainty: 0.99, reason: `cover sheet ${code.text}`, sure: true };
    if (own?.kind === "separator") return { certainty: 0.99, reason: "separator sheet", sure: true };
    if (own?.kind === "label") return { certainty: 0.97, reason: `label ${code.text}`, sure: true };
    const label = matchLabel(code.text, formats);
    if (label?.format.begins) return { certainty: 0.95, reason: `barcode ${code.text}`, sure: true };
  }
  return null;
}

/** Whether a page is only there to divide, and is left out of what is made. */
export function isDivider(page: Pick<PageFacts, "codes">): boolean {
  return page.codes.some((c) => ["coverSheet", "separator"].includes(parseOwnCode(c.text)?.kind ?? ""));
}

interface Count {
  readonly at: number;
  readonly of: number;
}

/** "Page 2 of 3", "Seite 2 von 3", "page 2 sur 3", "Page 2/3": the first that stands on the page. */
export function pageCount(words: readonly Word[]): Count | null {
  for (let i = 0; i < words.length; i++) {
    if (!/^(page|seite|pagina|blatt|sheet)[.:]?$/i.test(words[i]?.text ?? "")) continue;
    const next = words
      .slice(i + 1, i + 4)
      .map((w) => w.text)
      .join(" ");
    const found = /^(\d{1,4}) ?(?:of|von|sur|de|di|\/) ?(\d{1,4})\b/i.exec(next);
    const [at, of] = [Number(found?.[1]), Number(found?.[2])];
    if (found && at >= 1 && at <= of) return { at, of };
  }
  return null;
}

function byCount(before: Count | null, after: Count | null): Reason | null {
  if (after?.at === 1) return { certainty: 0.95, reason: `page 1 of ${after.of}` };
  if (before && before.at === before.of && before.of > 1 && after === null)
    return { certainty: 0.85, reason: `after page ${before.of} of ${before.of}` };
  return null;
}

function continues(before: Count | null, after: Count | null): boolean {
  return before !== null && after !== null && after.at === before.at + 1 && after.of === before.of;
}

interface Heading {
  readonly words: ReadonlySet<string>;
  readonly title: string | null;
  /** Tokens with digits in them: numbers and dates. */
  readonly numbers: ReadonlySet<string>;
}

function headingOf(page: PageFacts): Heading | null {
  const top = page.words.filter((w) => w.box[1] < page.heightPoints * HEADING_SHARE);
  if (top.length === 0) return null;
  const words = new Set<string>();
  const numbers = new Set<string>();
  let title: string | null = null;
  for (const word of top) {
    const folded = foldText(word.text).replace(/[^\p{L}\p{N}/.-]/gu, "");
    if (folded === "") continue;
    if (/\d/.test(folded)) numbers.add(folded);
    else words.add(folded);
    if (title === null && [...folded.split(/[^\p{L}]/u)].some((part) => TITLES.has(part))) title = word.text;
  }
  return { words, title, numbers };
}

function lastHeading(headings: readonly (Heading | null)[], upTo: number): Heading | null {
  for (let i = upTo; i >= 0; i--) if (headings[i]) return headings[i] ?? null;
  return null;
}

/**
 * Headings without what stands on most pages of the bundle: the recipient's address, and the sender's when all are from one. Otherwise two documents to
 * the same house would look alike for that alone.
 */
function withoutCommon(headings: readonly (Heading | null)[]): readonly (Heading | null)[] {
  const filled = headings.filter((h) => h !== null);
  if (filled.length < 3) return headings;
  const counts = new Map<string, number>();
  for (const h of filled) for (const word of [...h.words, ...h.numbers]) counts.set(word, (counts.get(word) ?? 0) + 1);
  const rare = (words: ReadonlySet<string>): ReadonlySet<string> =>
    new Set([...words].filter((w) => (counts.get(w) ?? 0) <= filled.length * COMMON_FROM));
  return headings.map((h) => h && { title: h.title, words: rare(h.words), numbers: rare(h.numbers) });
}

/** Only a page that looks like a first one begins a document: overleaf pages carry all sorts of headings. */
function byHeading(before: Heading | null, after: Heading | null): Reason | null {
  if (!before || !after || after.title === null) return null;
  const sameTitle = before.title !== null && foldText(before.title) === foldText(after.title);
  if (before.title !== null && !sameTitle) return { certainty: 0.75, reason: `new heading: ${after.title}` };
  // The same kind of document with the same number on it goes on overleaf.
  if ([...after.numbers].some((n) => n.length >= 4 && before.numbers.has(n))) return null;
  const shared = [...after.words].filter((w) => before.words.has(w)).length;
  if (shared / Math.max(1, Math.min(before.words.size, after.words.size)) < SAME_HEADING)
    return { certainty: 0.8, reason: `new heading: ${after.title}` };
  const number = [...after.numbers].find((n) => n.length >= 4);
  return sameTitle && number !== undefined ? { certainty: 0.7, reason: `new number: ${number}` } : null;
}
