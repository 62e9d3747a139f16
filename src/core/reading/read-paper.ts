import { foldReference } from "../shared/fold-text.ts";
import { checkSums, type Sums } from "./check-sums.ts";
import { currencyReading, identifierReadings, termReading, tidy } from "./derived-readings.ts";
import { guessSender } from "./guess-sender.ts";
import { type KnownLabels, type Label, labelsOf, noneKnown } from "./label-of.ts";
import { foldLabel, type LabelMeaning } from "./labels.ts";
import { hintsFor, type LayoutHint, type SeenPlace } from "./learn-layout.ts";
import type { ReadPage } from "./page-lines.ts";
import type { Ourselves } from "./paper-context.ts";
import { orphanNumbers } from "./orphan-number.ts";
import { periodReadings } from "./read-period.ts";
import { taxReadings } from "./read-taxes.ts";
import { settleDays } from "./settle-days.ts";
import type { PaperReadings, Reading, ReadingDoubt, ReadingField } from "./reading.ts";
import { habitsOf, kindOfField, shapeOfValue, type Spot, spotValues } from "./spot-values.ts";
import { tellLanguage } from "./tell-language.ts";

/** What is known of a document beside its pages. */
export interface PaperContext {
  /** The day it came in, YYYY-MM-DD: documents are seldom dated later. */
  readonly receivedOn: string;
  /** Names, VAT numbers and account numbers of our own companies: they are never the sender's. */
  readonly ourselves: Ourselves;
  readonly fileName: string;
  /** Where people confirmed values on earlier documents of the same sender. */
  readonly seen: readonly SeenPlace[];
}

/** A spot that may be a field's value, with how much speaks for it (log-odds). */
export interface Candidate {
  readonly spot: Spot;
  readonly value: string;
  readonly logit: number;
  readonly label: Label | null;
  readonly learnt: boolean;
}

/** Fields of a spot by what its label means; meanings that are none of ours lead nowhere. */
const fieldOfMeaning: Partial<Record<LabelMeaning, ReadingField>> = {
  documentNumber: "documentNumber",
  orderReference: "orderReference",
  yourReference: "yourReference",
  customerNumber: "customerNumber",
  batch: "batch",
  documentDate: "documentDate",
  dueDate: "dueDate",
  deliveryDate: "deliveryDate",
  validUntil: "validUntil",
  sailingDate: "sailingDate",
  net: "net",
  tax: "tax",
  total: "total",
};
/** Log-odds, set by judging on documents of known truth (docs/judgement.md). */
const weights = {
  /** A label that means the field for certain, right before the value. */
  label: 6.2,
  /** Base of every candidate: without anything for it a value is not the field. */
  base: -2.6,
  learntLabel: 2.2,
  learntPlace: 1.8,
  inFileName: 1.6,
  nearHeading: 1.4,
  upper: 0.6,
  mended: -1.2,
  /** A reference read off a picture whose letters and figures are easily taken for each other. */
  confusable: -1.4,
  /** The option that none of the candidates is right. */
  none: 0,
} as const;

/** Pages that are looked at: the first ones and the last, where sums stand. */
const PAGES_FIRST = 4;
const PAGES_LAST = 2;

/** Reads the fields of a document off its pages. Pure: the same pages and context give the same readings. Never fails; what is not there is not read. */
export function readPaper(all: readonly ReadPage[], context: PaperContext): PaperReadings {
  const pages = all.length <= PAGES_FIRST + PAGES_LAST ? all : [...all.slice(0, PAGES_FIRST), ...all.slice(-PAGES_LAST)];
  const habits = habitsOf(pages);
  const hints = hintsFor(pages, context.seen);
  const taught = new Map<string, { readonly meaning: LabelMeaning; readonly certainty: number }[]>();
  for (const { label, field, times } of hints) {
    const meaning = meaningOfField(field);
    // Seen once it may be chance; the second document makes it certain.
    if (label !== null && meaning !== null) taught.set(label, [...(taught.get(label) ?? []), { meaning, certainty: times > 1 ? 1 : 0.8 }]);
  }
  const known: KnownLabels = taught.size === 0 ? noneKnown : (folded) => taught.get(folded) ?? [];
  const spots = pages.flatMap((page) => spotValues(page, habits).map((spot) => ({ spot, page, labels: labelsOf(page, spot, known) })));
  const language = tellLanguage(pages.map((p) => p.lines.map((l) => l.map((w) => w.text).join(" ")).join("\n")).join("\n"));
  const byField = new Map<ReadingField, Candidate[]>();
  for (const { spot, page, labels } of spots)
    for (const candidate of candidatesOf(spot, page, labels, pages, context, hints))
      byField.set(candidate.field, [...(byField.get(candidate.field) ?? []), candidate.candidate]);
  const doubts: ReadingDoubt[] = [];
  const readings: Reading[] = [];
  const put = (field: ReadingField, candidates: readonly Candidate[], most = 1): void => {
    readings.push(...choose(field, candidates, pages, most));
  };
  // A number is what its document says it is; a reference that another label claims more surely is not the paper's own.
  const labelled = byField.get("documentNumber") ?? [];
  const numbers = labelled.some((c) => c.logit > 0) ? labelled : [...labelled, ...orphanNumbers(spots)];
  put("documentNumber", numbers);
  const number = readings.find((r) => r.field === "documentNumber");
  const isNumber = (c: Candidate): boolean =>
    number !== undefined && number.certainty > 0.6 && foldReference(c.value) === foldReference(number.value);
  put(
    "orderReference",
    (byField.get("orderReference") ?? []).filter((c) => !isNumber(c)),
    8,
  );
  put(
    "yourReference",
    (byField.get("yourReference") ?? []).filter((c) => !isNumber(c)),
  );
  put(
    "customerNumber",
    (byField.get("customerNumber") ?? []).filter((c) => !isNumber(c)),
  );
  put("batch", byField.get("batch") ?? []);
  const days = settleDays(
    byField,
    spots.filter(({ spot }) => spot.kind === "day"),
    pages,
    context.receivedOn,
    // German and French documents put the day first, whoever reads them.
    habits.order ?? (language && language.language !== "en" && language.certainty > 0.6 ? "dmy" : null),
  );
  doubts.push(...days.doubts);
  for (const field of ["documentDate", "dueDate", "deliveryDate", "validUntil", "sailingDate"] as const)
    put(field, days.byField.get(field) ?? []);
  const money = spots.filter(({ spot }) => spot.kind === "amount").map(({ spot, labels }) => ({ spot, labels }));
  const sums: Sums = checkSums(byField, money, pages);
  doubts.push(...sums.doubts);
  for (const field of ["net", "tax", "total"] as const) put(field, sums.byField.get(field) ?? []);
  readings.push(
    ...currencyReading(
      money.map((m) => m.spot),
      readings,
      pages,
    ),
  );
  readings.push(...identifierReadings("iban", spots, context), ...identifierReadings("vatNumber", spots, context));
  readings.push(...periodReadings(pages, habits, readings), ...taxReadings(pages, habits, readings));
  const sender = guessSender(
    pages,
    context.ourselves.map((o) => o.name),
  );
  if (sender) readings.push(sender);
  const found = [...readings, ...termReading(readings, pages)].map((r) => dampen(r, doubts));
  if (language)
    found.push({
      field: "language",
      value: language.language,
      certainty: language.certainty,
      page: null,
      box: null,
      text: language.language,
      label: null,
      others: [],
      from: "page",
    });
  return { readings: found, doubts, language: language?.language ?? null };
}

function meaningOfField(field: ReadingField): LabelMeaning | null {
  const found = Object.entries(fieldOfMeaning).find(([, f]) => f === field)?.[0];
  return (found as LabelMeaning | undefined) ?? null;
}

/** What a spot may be, by its labels and by what was learnt of its sender. */
function candidatesOf(
  spot: Spot,
  page: ReadPage,
  labels: readonly Label[],
  pages: readonly ReadPage[],
  context: PaperContext,
  hints: readonly LayoutHint[],
): readonly { field: ReadingField; candidate: Candidate }[] {
  const found = new Map<ReadingField, Candidate>();
  const value = spot.values[0];
  if (value === undefined) return [];
  const isLast = page.number === pages.at(-1)?.number;
  const extra =
    (spot.mended ? weights.mended : 0) +
    (page.fromPicture && spot.kind === "reference" && /[a-z]/i.test(value) && /[0O1Il5S8B]/.test(value) ? weights.confusable : 0) +
    (spot.kind === "reference" && inFileName(value, context.fileName) ? weights.inFileName : 0) +
    (spot.kind !== "amount" && page.number === 1 && spot.box[1] < page.height * 0.45 ? weights.upper : 0);
  const consider = (field: ReadingField, logit: number, label: Label | null, learnt: boolean): void => {
    const before = found.get(field);
    if (!before || before.logit < logit) found.set(field, { spot, value, logit, label, learnt });
  };
  // Another label that claims the spot as something that is not ours speaks against all the rest.
  const claims = labels.flatMap((l) => l.meanings.map((m) => ({ l, m, strength: m.certainty * l.nearness })));
  const first = labels[0];
  for (const { l, m, strength } of claims) {
    const field = fieldOfMeaning[m.meaning];
    if (!field || kindOfField[field] !== spot.kind) continue;
    if (field === "documentNumber" && !isNumberLike(value)) continue;
    const rival = Math.max(0, ...claims.filter((c) => c.m.meaning !== m.meaning && c.l !== l && c.l === first).map((c) => c.strength));
    const heading = field === "documentNumber" && m.certainty < 1 && nearHeading(page, spot) ? weights.nearHeading : 0;
    const generic = field === "documentNumber" && m.certainty < 1 && spot.box[1] > page.height * 0.5 ? -1.5 : 0;
    consider(field, weights.base + weights.label * strength - 2 * rival + heading + generic + extra, l, false);
  }
  for (const hint of hints) {
    if (kindOfField[hint.field] !== spot.kind) continue;
    const label = labels.find((l) => l.folded === hint.label || l.folded.endsWith(` ${hint.label ?? ""}`)) ?? null;
    const samePage = hint.page === "last" ? isLast : page.number === 1;
    const place = samePage && Math.abs(spot.box[0] / page.width - hint.x) < 0.06 && Math.abs(spot.box[1] / page.height - hint.y) < 0.04;
    const right =
      samePage &&
      Math.abs((spot.box[0] + spot.box[2]) / page.width - hint.right) < 0.02 &&
      Math.abs(spot.box[1] / page.height - hint.y) < 0.04;
    const labelled = hint.label !== null && label !== null && label.relation === hint.relation;
    if (!labelled && !((place || right) && hint.label === null) && !(place && spot.kind !== "amount" && shapeOfValue(value) === hint.shape))
      continue;
    const confirmed = Math.min(1.5, 0.5 * hint.times);
    const before = found.get(hint.field);
    const from = before?.logit ?? weights.base + 1.2;
    const more =
      ((labelled ? weights.learntLabel : 0) + (place || right ? weights.learntPlace : 0) + (shapeOfValue(value) === hint.shape ? 0.8 : 0)) *
      confirmed;
    consider(hint.field, from + more, label ?? before?.label ?? null, true);
  }
  return [...found].map(([field, candidate]) => ({ field, candidate }));
}

function inFileName(value: string, fileName: string): boolean {
  const folded = foldReference(value);
  return folded.length >= 4 && foldReference(fileName).includes(folded);
}

/** A number of a document has a figure, and is no year or rate. */
function isNumberLike(value: string): boolean {
  return /\d/.test(value) && foldReference(value).length >= 2 && !/^(19|20)\d\d$/.test(value);
}

const headings =
  /^(tax )?(invoice|rechnung|facture|credit note|gutschrift|avoir|delivery note|lieferschein|bon de livraison|statement|kontoauszug|releve|quotation|angebot|devis|order confirmation|auftragsbestatigung|reminder|mahnung|rappel|certificate|zertifikat|certificat|packing list|packliste|loading list|purchase order|survey report|remittance advice)\b/;

/** Whether a heading such as INVOICE stands on the same line or a little above. */
function nearHeading(page: ReadPage, spot: Spot): boolean {
  for (let at = spot.line; at >= 0 && at >= spot.line - 3; at--)
    for (const phrase of page.lines[at] ?? []) if (headings.test(foldLabel(phrase.text)) && phrase.words.length <= 4) return true;
  return false;
}

/** Softmax over what speaks for each value; the same value in several places counts for all of them. */
export function choose(
  field: ReadingField,
  candidates: readonly Candidate[],
  pages: readonly ReadPage[],
  most: number,
): readonly Reading[] {
  const byValue = new Map<string, Candidate[]>();
  for (const candidate of candidates.filter((c) => !isPartOfAnother(c, candidates))) {
    const key = kindOfField[field] === "reference" ? foldReference(candidate.value) : candidate.value;
    byValue.set(key, [...(byValue.get(key) ?? []), candidate]);
  }
  const options = [...byValue.values()]
    .map((same) => {
      const sorted = [...same].sort((a, b) => b.logit - a.logit || a.spot.page - b.spot.page || a.spot.line - b.spot.line);
      const best = sorted[0] as Candidate;
      return { best, logit: best.logit + Math.min(1, 0.35 * (same.length - 1)) };
    })
    .sort((a, b) => b.logit - a.logit || a.best.spot.page - b.best.spot.page || a.best.spot.line - b.best.spot.line);
  const first = options[0];
  if (!first) return [];
  const isShown = (page: number): boolean => pages.find((p) => p.number === page)?.isShown ?? false;
  const place = (c: Candidate) => (isShown(c.spot.page) ? { page: c.spot.page, box: c.spot.box } : { page: null, box: null });
  if (most > 1)
    // Several are possible, each for itself.
    return options
      .map((o) => ({ ...o, certainty: sigmoid(o.logit) }))
      .filter((o) => o.certainty >= 0.3)
      .slice(0, most)
      .map((o) => ({
        field,
        value: o.best.value,
        certainty: tidy(o.certainty),
        ...place(o.best),
        text: o.best.spot.text,
        label: o.best.label?.text ?? null,
        others: [],
        from: fromOf(o.best, pages),
      }));
  const sum = options.reduce((s, o) => s + Math.exp(o.logit), Math.exp(weights.none));
  const certaintyOf = (logit: number): number => tidy(Math.exp(logit) / sum);
  const certainty = certaintyOf(first.logit);
  if (certainty < 0.25) return [];
  const others = options
    .slice(1, 5)
    .map((o) => ({ value: o.best.value, certainty: certaintyOf(o.logit), ...place(o.best), text: o.best.spot.text }))
    .filter((o) => o.certainty >= 0.02);
  const rest = first.best.spot.values.slice(1).filter((v) => v !== first.best.value);
  return [
    {
      field,
      value: first.best.value,
      certainty,
      ...place(first.best),
      text: first.best.spot.text,
      label: first.best.label?.text ?? null,
      others: [
        ...others,
        ...rest.map((value) => ({ value, certainty: tidy((1 - certainty) / 2), ...place(first.best), text: first.best.spot.text })),
      ],
      from: fromOf(first.best, pages),
    },
  ];
}

/** "6127" of "PO 6127" is not a second reference. */
function isPartOfAnother(c: Candidate, all: readonly Candidate[]): boolean {
  const { page, line, phrase, from, count } = c.spot;
  return all.some(
    (o) =>
      o.spot.count > count &&
      o.spot.page === page &&
      o.spot.line === line &&
      o.spot.phrase === phrase &&
      o.spot.from <= from &&
      o.spot.from + o.spot.count >= from + count &&
      o.logit >= c.logit - 1,
  );
}

const fromOf = (c: Candidate, pages: readonly ReadPage[]): Reading["from"] =>
  c.learnt ? "learnt" : (pages.find((p) => p.number === c.spot.page)?.isDrawn ?? false) ? "page" : "text";
const sigmoid = (x: number): number => 1 / (1 + Math.exp(-x));

function dampen(reading: Reading, doubts: readonly ReadingDoubt[]): Reading {
  const doubted = doubts.filter((d) => d.fields.includes(reading.field));
  if (doubted.length === 0) return reading;
  const most = doubted.some((d) => d.code === "day-or-month" || d.code === "places-unclear") ? 0.55 : 0.7;
  return { ...reading, certainty: Math.min(reading.certainty, most) };
}
