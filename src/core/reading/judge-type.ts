import { foldText } from "../shared/fold-text.ts";
import { foldLabel } from "./labels.ts";
import type { Box, Phrase, ReadPage } from "./page-lines.ts";

/** A document type as far as telling it needs. */
export interface TypeToTell {
  readonly key: string;
  readonly label: string;
}

/** A word that decided, and where it stands. */
export interface DecidingWord {
  readonly text: string;
  readonly page: number | null;
  readonly box: Box | null;
}

export interface JudgedType {
  readonly type: string;
  readonly certainty: number;
  readonly words: readonly DecidingWord[];
}

/** What documents of the trade call themselves in English, German and French, by the keys of the usual document types. */
const headings: Readonly<Record<string, string>> = {
  bookingRequest: "booking request|freight request|buchungsanfrage|demande de reservation|request for freight",
  bookingConfirmation: "booking confirmation|buchungsbestatigung|confirmation de reservation",
  packingList: "packing list|packing slip|packing note|packliste|liste de colisage",
  loadingList: "loading list|ladeliste|liste de chargement",
  temperatureLog: "temperature log|temperature record|temperaturprotokoll|releve de temperature",
  dangerousGoodsNote: "dangerous goods note|dangerous goods declaration|gefahrgutdeklaration|declaration de marchandises dangereuses",
  customsForm: "customs declaration|customs form|zollanmeldung|declaration en douane",
  charterAgreement: "charter agreement|charter party|chartervertrag|contrat d affretement",
  customerAgreement: "customer agreement|framework agreement|rahmenvertrag|contrat cadre",
  salesInvoice: "invoice|tax invoice|rechnung|facture",
  creditNote: "credit note|credit memo|gutschrift|avoir",
  remittanceAdvice: "remittance advice|payment advice|zahlungsavis|avis de paiement|avis de virement",
  quotation: "quotation|quote|offer|our offer|angebot|offerte|devis",
  purchaseOrder: "purchase order|bestellung|bon de commande|commande",
  orderConfirmation:
    "order confirmation|order acknowledgement|sales order confirmation|auftragsbestatigung|confirmation de commande|accuse de reception de commande",
  deliveryNote:
    "delivery note|despatch note|dispatch note|goods delivery note|delivery ticket|delivery slip|delivery docket|lieferschein|bon de livraison|bordereau de livraison",
  supplierInvoice:
    "invoice|tax invoice|vat invoice|commercial invoice|sales invoice|rechnung|schlussrechnung|abschlagsrechnung|facture|bill",
  supplierStatement:
    "statement|statement of account|account statement|customer statement|kontoauszug|saldenmitteilung|offene posten|releve de compte|releve",
  supplierCreditNote: "credit note|credit memo|gutschrift|rechnungskorrektur|avoir|note de credit|facture d avoir",
  reminder: "reminder|payment reminder|final reminder|overdue notice|mahnung|zahlungserinnerung|rappel|relance|lettre de relance",
  certificate: "certificate|zertifikat|bescheinigung|certificat|attestation",
  batchCertificate: "batch certificate|certificate of conformity|certificate of analysis|chargenzertifikat|certificat de lot",
  medicalCertificate: "medical certificate|medical fitness|seafarer medical|certificat medical|tauglichkeitszeugnis",
  crewContract:
    "crew contract|contract of employment|employment agreement|arbeitsvertrag|heuervertrag|contrat de travail|contrat d engagement",
  appraisal: "appraisal|performance review|beurteilung|evaluation",
  claimForm: "claim form|notice of claim|damage claim|schadensanzeige|declaration de sinistre",
  surveyReport: "survey report|survey|gutachten|rapport d expertise",
  drawing: "drawing|general arrangement|zeichnung|plan",
  bankStatement: "bank statement|account statement|kontoauszug|releve bancaire|releve de compte bancaire",
  reconciliationSheet: "reconciliation|bank reconciliation|abstimmung|rapprochement bancaire",
  journalSupport: "journal support|journal voucher",
  minutes: "minutes|minutes of meeting|protokoll|proces verbal|compte rendu",
  letter: "letter|dear sir or madam|dear sirs|sehr geehrte damen und herren|madame monsieur",
};
/** Types that a document of ours has, and those of documents that others send us. */
const ours = new Set(["salesInvoice", "creditNote", "purchaseOrder", "bookingConfirmation", "loadingList", "reconciliationSheet"]);
const theirs = new Set([
  "supplierInvoice",
  "supplierCreditNote",
  "supplierStatement",
  "deliveryNote",
  "orderConfirmation",
  "reminder",
  "packingList",
  "bookingRequest",
]);

/** How often words stood on documents of each type, and how many documents there were: what was learnt from what people filed. */
export interface TypeModel {
  readonly papers: ReadonlyMap<string, number>;
  readonly words: ReadonlyMap<string, ReadonlyMap<string, number>>;
}
/** A model that knows nothing yet. */
export const emptyModel: TypeModel = { papers: new Map(), words: new Map() };
/** Words of a document that are learnt and asked: its beginning tells its type. */
const WORDS_TAKEN = 90;
/** Weight of learnt words against headings: much where no heading says what a document is, little where one does. */
const LEARNT = 0.15;
const LEARNT_MOST = 2.5;
const LEARNT_LEAST = 0.5;
/** What a sender's documents mostly are weighs more than other words, and less than a heading of one's own. */
const LEARNT_SENDER = 0.6;
const LEARNT_SENDER_MOST = 2.5;

/** How the word begins that says where a document came from. */
const SENDER_WORD = "from:";

/** The words of a document that tell its type: folded, without figures, each once; where it came from is one of them. */
export function tellingWords(text: string, sender: string | null, queue: string | null): readonly string[] {
  const words = new Set<string>();
  for (const word of foldText(text.slice(0, 4000)).split(/[^\p{L}]+/u)) {
    if (word.length >= 3 && word.length <= 24) words.add(word);
    if (words.size >= WORDS_TAKEN) break;
  }
  const domain = /@([a-z0-9.-]+)/i.exec(sender ?? "")?.[1];
  if (domain) words.add(`${SENDER_WORD}${domain.toLowerCase()}`);
  if (queue !== null) words.add(`queue:${queue}`);
  return [...words];
}

/** A model out of documents whose type people confirmed. The same documents give the same model. */
export function learnTypes(papers: readonly { readonly type: string; readonly words: readonly string[] }[]): TypeModel {
  const counts = new Map<string, number>();
  const words = new Map<string, Map<string, number>>();
  for (const paper of papers) {
    counts.set(paper.type, (counts.get(paper.type) ?? 0) + 1);
    for (const word of paper.words) {
      const of = words.get(word) ?? new Map<string, number>();
      of.set(paper.type, (of.get(paper.type) ?? 0) + 1);
      words.set(word, of);
    }
  }
  return { papers: counts, words };
}

/** What is known of a document beside its headings. `isOurs` says whether it bears our own name as its sender; null when unknown. */
export interface AboutPaper {
  readonly words: readonly string[];
  readonly subject: string;
  readonly fileName: string;
  readonly isMail: boolean;
  readonly isOurs: boolean | null;
}

/** What names of a document type may stand on its documents, with those that end with less of it. */
interface TypeNames {
  /** Those that are long enough to tell something in a file's name, between blanks. */
  readonly padded: readonly string[];
  /** The first word of its label, between blanks; null when it is short. */
  readonly word: string | null;
  readonly whole: ReadonlySet<string>;
  /** Ends of longer names: "certificate" of "batch certificate". */
  readonly ends: ReadonlySet<string>;
}
const namesKept = new Map<string, TypeNames>();
const NAMES_KEPT = 500;

function namesOf(type: TypeToTell): TypeNames {
  const key = `${type.key} ${type.label}`;
  const known = namesKept.get(key);
  if (known) return known;
  const phrases = [...new Set([...(headings[type.key] ?? "").split("|"), foldLabel(type.label)])].filter((p) => p !== "");
  const ends = phrases.flatMap((p) => [...p.matchAll(/ /g)].map((m) => p.slice(m.index + 1)));
  const [word = ""] = foldLabel(type.label).split(" ");
  const names = {
    padded: phrases.filter((p) => p.length >= 5).map((p) => ` ${p} `),
    word: word.length >= 7 ? ` ${word} ` : null,
    whole: new Set(phrases),
    ends: new Set(ends),
  };
  if (namesKept.size >= NAMES_KEPT) namesKept.clear();
  namesKept.set(key, names);
  return names;
}

const allKept = new WeakMap<readonly TypeToTell[], Pick<TypeNames, "whole" | "ends">>();

function namesOfAll(types: readonly TypeToTell[]): Pick<TypeNames, "whole" | "ends"> {
  const known = allKept.get(types);
  if (known) return known;
  const each = types.map(namesOf);
  const all = { whole: new Set(each.flatMap((n) => [...n.whole])), ends: new Set(each.flatMap((n) => [...n.ends])) };
  allKept.set(types, all);
  return all;
}

/** A folded heading, whole and without words at its end or its beginning, the longest first. */
function partsOf(folded: string): readonly string[] {
  const blanks = [...folded.matchAll(/ /g)].map((m) => m.index);
  const parts = [folded, ...blanks.map((at) => folded.slice(0, at)), ...blanks.map((at) => folded.slice(at + 1))];
  return parts.sort((a, b) => b.length - a.length);
}

/** Which type a document is, the likeliest first, with the words that decided. */
export function judgeType(
  pages: readonly ReadPage[],
  about: AboutPaper,
  types: readonly TypeToTell[],
  model: TypeModel,
): readonly JudgedType[] {
  return judgeHeadings(headingsOn(pages), about, types, model);
}

/** The same by the headings that were found on its pages. */
export function judgeHeadings(
  found: readonly Heading[],
  about: AboutPaper,
  types: readonly TypeToTell[],
  model: TypeModel,
): readonly JudgedType[] {
  // Most of what stands there names no type at all.
  const known = namesOfAll(types);
  const shown = found
    .map((h) => ({
      ...h,
      parts: partsOf(h.folded).filter((p) => known.whole.has(p)),
      isEnd: h.folded.length >= 5 && known.ends.has(h.folded),
    }))
    .filter((h) => h.parts.length > 0 || h.isEnd);
  const outside = ` ${foldLabel(`${about.fileName.replace(/[_-]/g, " ")} ${about.subject}`)} `;
  const all = [...model.papers.values()].reduce((s, n) => s + n, 0);
  const senders = about.words.filter((w) => w.startsWith(SENDER_WORD));
  const others = about.words.filter((w) => !w.startsWith(SENDER_WORD));
  const headed = types.map((type) => {
    const names = namesOf(type);
    let score = 0;
    const words: DecidingWord[] = [];
    for (const h of shown) {
      const hit = h.parts.find((p) => names.whole.has(p));
      // "Certificate" is said of a batch certificate too: what else stands there decides between them.
      if (hit === undefined && h.isEnd && names.ends.has(h.folded)) score = Math.max(score, h.strength * 0.7);
      if (hit === undefined) continue;
      // A heading says it alone; a longer name is a plainer one ("bank statement" before "statement").
      const worth = h.strength * (h.folded === hit ? 1 : 0.6) + hit.split(" ").length * 0.25;
      if (worth > score) score = worth;
      words.push({ text: h.text, page: h.page, box: h.box });
    }
    return { type, names, score, words };
  });
  const best = Math.max(0, ...headed.map((h) => h.score));
  const scored = headed.map(({ type, names, words, score: heading }) => {
    let score = heading;
    if (names.padded.some((p) => outside.includes(p))) score += 1.2;
    // A file that is called "temperature B-20384" is more often a temperature log than anything else.
    if (names.word !== null && outside.includes(names.word)) score += 1;
    if (about.isMail) score += type.key === "mail" ? 7 : 0;
    if (about.isOurs !== null)
      score +=
        (ours.has(type.key) === about.isOurs && (ours.has(type.key) || theirs.has(type.key)) ? 0.9 : 0) -
        ((ours.has(type.key) && !about.isOurs) || (theirs.has(type.key) && about.isOurs) ? 1.6 : 0);
    else if (theirs.has(type.key)) score += 0.3;
    // What was learnt decides among types that a heading leaves open; it neither lifts others above them nor takes from what is headed so.
    const isNamed = best > 0 && heading >= best / 2;
    const lifts = isNamed ? LEARNT_MOST : Math.max(LEARNT_LEAST, LEARNT_MOST - (best - heading));
    score += bounded(LEARNT * learntFor(type.key, others, model, all), isNamed ? LEARNT_LEAST : LEARNT_MOST, lifts);
    score += bounded(LEARNT_SENDER * learntFor(type.key, senders, model, all), LEARNT_SENDER_MOST, LEARNT_SENDER_MOST);
    return { type: type.key, score, words: words.slice(0, 3) };
  });
  scored.sort((a, b) => b.score - a.score || (a.type < b.type ? -1 : 1));
  const highest = scored[0]?.score ?? 0;
  // Nothing that speaks for any of them: a type of its own, "none that we can tell".
  const sum = scored.reduce((s, x) => s + Math.exp(x.score - highest), Math.exp(1.8 - highest));
  return scored
    .slice(0, 4)
    .map((s) => ({ type: s.type, certainty: Math.round((Math.exp(s.score - highest) / sum) * 1000) / 1000, words: s.words }))
    .filter((s) => s.certainty >= 0.05);
}

/** What was learnt, as log-odds against the usual: words with the type's share of documents, smoothed. */
function learntFor(type: string, words: readonly string[], model: TypeModel, all: number): number {
  const papers = model.papers.get(type) ?? 0;
  if (papers === 0 || all === 0) return 0;
  let sum = 0;
  for (const word of words) {
    const of = model.words.get(word);
    if (!of) continue;
    const here = of.get(type) ?? 0;
    const everywhere = everywhereOf(of);
    sum += Math.log((here + 0.3) / (papers + 0.6)) - Math.log((everywhere - here + 0.3) / (all - papers + 0.6));
  }
  return sum;
}
const bounded = (value: number, below: number, above: number): number => Math.max(-below, Math.min(above, value));

const sums = new WeakMap<ReadonlyMap<string, number>, number>();

/** On how many documents of all types a word stood. */
function everywhereOf(of: ReadonlyMap<string, number>): number {
  const known = sums.get(of);
  if (known !== undefined) return known;
  let sum = 0;
  for (const n of of.values()) sum += n;
  sums.set(of, sum);
  return sum;
}

/** A phrase of a document that may say what it is. */
export interface Heading extends DecidingWord {
  readonly folded: string;
  readonly strength: number;
}

/** A number with the word for it, and a day: "Nr. RE-2478 vom 23. Oktober 2026". */
const numberedAndDated =
  /^(.*?\p{L})[\s:]+(?:(?:n|nr|no|num|number|nummer|num[ée]ro)\s*[°º.:]*\s*)?[\p{L}/-]{0,6}\d\S*\s+(?:du|vom|dated|of|from|le|den)\s+(?=\S*\d)/iu;

/** What of a phrase may be a heading. One that goes on with its paper's number and day is what stands before those; of others all but the figures. */
function headOf(phrase: Phrase): { readonly folded: string; readonly words: number } {
  const before = numberedAndDated.exec(phrase.text)?.[1]?.replace(/\s+(?:n|nr|no)\s*[°º.]*$/iu, "");
  if (before !== undefined) return { folded: foldLabel(before), words: before.split(" ").length };
  return { folded: foldLabel(phrase.text.replace(/\S*\d\S*/g, " ")), words: phrase.words.length };
}

/** Phrases that may be a heading: short, in the upper half of the first page, larger or in capitals the stronger. */
export function headingsOn(pages: readonly ReadPage[]): readonly Heading[] {
  const found: Heading[] = [];
  for (const page of pages.slice(0, 2))
    for (const phrase of page.lines.flat()) {
      const head = headOf(phrase);
      if (head.words > 8 || phrase.box[1] > page.height * (page.isDrawn ? 0.6 : 1)) continue;
      const folded = head.folded;
      if (folded === "") continue;
      const size = phrase.box[3] / page.letter;
      const capitals = phrase.text === phrase.text.toUpperCase() && /\p{L}{4}/u.test(phrase.text);
      const high = 1 - phrase.box[1] / page.height;
      const strength =
        1.8 +
        Math.min(2, Math.max(0, size - 1.05) * 4) +
        (capitals ? 1.2 : 0) +
        high +
        (head.words <= 3 ? 0.6 : 0) -
        (page.number > 1 ? 1.5 : 0) -
        (/:/.test(phrase.text) ? 2 : 0);
      found.push({
        text: phrase.text,
        page: page.isShown ? page.number : null,
        box: page.isShown ? phrase.box : null,
        folded,
        strength: Math.max(0.2, strength),
      });
    }
  return found;
}
