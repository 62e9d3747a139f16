import { tidy } from "./derived-readings.ts";
import { foldLabel } from "./labels.ts";
import { type Box, boxAround, type ReadPage } from "./page-lines.ts";
import { hundredths } from "./parse-amount.ts";
import type { Reading } from "./reading.ts";
import { type Habits, type Spot, spotValues } from "./spot-values.ts";

/** Rates above this are discounts or shares of something else, hundredths of a per cent. */
const RATE_MAX = 3000;
/** Words that say a line is one of tax, folded. */
const taxWords = /(^| )(vat|tax|mwst|ust|mehrwertsteuer|umsatzsteuer|tva|t v a|moms|iva|btw)( |$)/;
/** Words that say a rate is of something else. */
const otherWords = /(^| )(discount|rabatt|skonto|remise|escompte|interest|zinsen|deposit|anzahlung|acompte|fuel surcharge)( |$)/;

/** The tax at one rate, as it stands on a line. */
interface TaxLine {
  readonly rate: number;
  readonly base: number | null;
  readonly tax: number;
  readonly page: ReadPage;
  readonly box: Box;
  readonly text: string;
  readonly label: string | null;
}

/**
 * The tax of a document by rate, off the lines that show a rate beside amounts: "VAT 20 % 971.50", "19 % auf 526,32 100,00", a table of rates. Each is a
 * reading of its own, `taxAtRate`, whose value is the rate in per cent and the tax, parted by a blank: "20.00 971.50". Only what comes to the tax that was
 * read for the whole is sure; lines that do not are left out where others do. Pure.
 */
export function taxReadings(pages: readonly ReadPage[], habits: Habits, readings: readonly Reading[]): readonly Reading[] {
  const lines = pages.flatMap((page) => page.lines.flatMap((_, at) => lineOf(page, at, habits) ?? []));
  const whole = readings.find((r) => r.field === "tax");
  if (lines.length === 0) {
    if (!whole) return [];
    const above = fromAbove(pages, whole);
    return above.length > 0 ? above : withoutSign(pages, whole, readings.find((r) => r.field === "net") ?? null);
  }
  // A credit note shows its sums with or without a sign: those by rate follow the whole.
  const signed = whole ? hundredths(whole.value) : 0;
  const total = whole ? Math.abs(signed) : null;
  // A summary stands behind the goods, so the last line of a rate is its own; where only the goods show rates, theirs together are.
  const named = lastOfEach(lines.filter((l) => l.label !== null));
  const options = [named, lastOfEach(lines), together(lines)];
  const fitting = total === null ? undefined : options.find((o) => o.length > 0 && comesTo(o, total));
  const chosen = fitting ?? named;
  return chosen
    .toSorted((a, b) => b.rate - a.rate)
    .map((l) => ({
      field: "taxAtRate" as const,
      value: `${(l.rate / 100).toFixed(2)} ${(((signed < 0 ? -1 : 1) * l.tax) / 100).toFixed(2)}`,
      certainty: tidy(fitting ? Math.min(0.97, whole?.certainty ?? 0) : total === null ? 0.7 : 0.4),
      page: l.page.isShown ? l.page.number : null,
      box: l.page.isShown ? l.box : null,
      text: l.text,
      label: l.label,
      others: [],
      from: l.page.isDrawn ? ("page" as const) : ("text" as const),
    }));
}

/** Heights of a sum that the line of labels stands above it at most. */
const ABOVE = 3;

/** Where the sums stand beneath their labels no line holds both: then the words above the whole tax may name its one rate. */
function fromAbove(pages: readonly ReadPage[], whole: Reading): readonly Reading[] {
  const { box } = whole;
  const page = pages.find((p) => p.number === whole.page);
  if (!page || box === null) return [];
  const isAbove = (b: Box): boolean =>
    b[1] < box[1] && box[1] - (b[1] + b[3]) < ABOVE * box[3] && b[0] < box[0] + box[2] && box[0] < b[0] + b[2];
  const above = page.lines.flat().filter((p) => isAbove(p.box) && taxWords.test(foldLabel(p.text)));
  const named = above.at(-1);
  const rate = named ? rateOf(named.words.map((w) => w.text)) : null;
  if (!named || rate === null) return [];
  const value = `${(rate / 100).toFixed(2)} ${whole.value}`;
  return [
    { ...whole, field: "taxAtRate", value, certainty: tidy(Math.min(0.9, whole.certainty)), label: named.text.slice(0, 60), others: [] },
  ];
}

/**
 * The sign of per cent is the first thing a scan loses: "VAT 20 971.50". A figure beside a word for tax is its rate where that share of the net is the tax to the
 * penny; else it is not taken for one.
 */
function withoutSign(pages: readonly ReadPage[], whole: Reading, net: Reading | null): readonly Reading[] {
  if (net === null) return [];
  const [tax, base] = [Math.abs(hundredths(whole.value)), Math.abs(hundredths(net.value))];
  for (const phrase of pages.filter((p) => p.fromPicture).flatMap((p) => p.lines.flat())) {
    const words = phrase.text.replace(/[@()]/g, " ").split(/\s+/);
    if (!taxWords.test(foldLabel(words.join(" ")))) continue;
    const rates = words.flatMap((w) => /^(\d{1,2}(?:[.,]\d{1,2})?)\D{0,2}$/.exec(w)?.[1] ?? []);
    const rate = rates.map((r) => Math.round(Number(r.replace(",", ".")) * 100)).find((r) => fits(base, r, tax));
    if (rate === undefined || rate > RATE_MAX) continue;
    const certainty = tidy(Math.min(0.9, whole.certainty));
    return [
      {
        ...whole,
        field: "taxAtRate",
        value: `${(rate / 100).toFixed(2)} ${whole.value}`,
        certainty,
        label: phrase.text.slice(0, 60),
        others: [],
      },
    ];
  }
  return [];
}
const fits = (base: number, rate: number, tax: number): boolean => tax > 0 && Math.abs((base * rate) / 10_000 - tax) <= 1;

/** A penny for each rate: each is rounded for itself. */
const comesTo = (lines: readonly TaxLine[], total: number): boolean =>
  Math.abs(lines.reduce((s, l) => s + l.tax, 0) - total) <= lines.length;

const lastOfEach = (lines: readonly TaxLine[]): readonly TaxLine[] => [...new Map(lines.map((l) => [l.rate, l])).values()];

function together(lines: readonly TaxLine[]): readonly TaxLine[] {
  const sums = new Map<number, TaxLine>();
  for (const line of lines) {
    const known = sums.get(line.rate);
    sums.set(line.rate, known ? { ...known, tax: known.tax + line.tax } : line);
  }
  return [...sums.values()];
}

function lineOf(page: ReadPage, at: number, habits: Habits): TaxLine | null {
  const phrases = page.lines[at] ?? [];
  const words = phrases.flatMap((p) => p.words);
  const rate = rateOf(words.map((w) => w.text));
  if (rate === null) return null;
  const folded = foldLabel(phrases.map((p) => p.text).join(" "));
  if (otherWords.test(folded)) return null;
  const money = spotValues(page, habits).filter((s) => s.line === at && s.kind === "amount" && s.isMoney);
  const amounts = money.map((s) => Math.abs(hundredths(s.values[0] ?? "0")));
  const isNamed = taxWords.test(folded);
  const made = (base: number | null, tax: number, shown: readonly Spot[]): TaxLine => {
    const text = shown.map((s) => s.text).join(" ");
    return { rate, base, tax, page, box: boxAround(shown.map((s) => s.box)), text, label: isNamed ? labelOf(phrases) : null };
  };
  // Two amounts of which one is that share of the other.
  for (const [b, base] of amounts.entries())
    for (const [t, tax] of amounts.entries()) {
      const spot = money[t];
      if (b !== t && spot && fits(base, rate, tax)) return made(base, tax, [spot]);
    }
  const [only, other] = money;
  if (isNamed && only && !other) return made(null, amounts[0] ?? 0, [only]);
  return null;
}

/** The words of a line up to its first figure that is no rate. */
function labelOf(phrases: ReadPage["lines"][number]): string {
  return (phrases.find((p) => taxWords.test(foldLabel(p.text)))?.text ?? phrases[0]?.text ?? "").slice(0, 60);
}

/** A rate on a line, hundredths of a per cent; null where there is none, or more than one. */
function rateOf(words: readonly string[]): number | null {
  const rates = new Set<number>();
  for (const [i, word] of words.entries()) {
    const bare = word.replace(/^[(@]+|[):,;]+$/g, "");
    const glued = /^(\d{1,2}(?:[.,]\d{1,2})?)%$/.exec(bare)?.[1];
    const parted = /^(?:%|%[):,;]+)$/.test(words[i + 1] ?? "") ? /^(\d{1,2}(?:[.,]\d{1,2})?)$/.exec(bare)?.[1] : undefined;
    const figures = glued ?? parted;
    if (figures !== undefined) rates.add(Math.round(Number(figures.replace(",", ".")) * 100));
  }
  const [rate, more] = [...rates];
  return rate === undefined || more !== undefined || rate > RATE_MAX ? null : rate;
}
