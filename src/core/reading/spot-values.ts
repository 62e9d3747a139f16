import type { Word } from "../pages/page-text.ts";
import { mendIban, parseVatNumber, toFigures } from "./identifiers.ts";
import { type Box, boxAround, type Phrase, type ReadPage } from "./page-lines.ts";
import type { ReadingField } from "./reading.ts";
import { parseAmount } from "./parse-amount.ts";
import { monthNamed, parsePaperDay } from "./parse-paper-day.ts";

export type SpotKind = "day" | "amount" | "reference" | "iban" | "vatNumber" | "mail";

/** What shape the value of a field has; those without one are not read off by their shape. */
export const kindOfField: Partial<Record<ReadingField, SpotKind>> = {
  documentNumber: "reference",
  orderReference: "reference",
  yourReference: "reference",
  customerNumber: "reference",
  batch: "reference",
  documentDate: "day",
  dueDate: "day",
  deliveryDate: "day",
  deliveryUntil: "day",
  validUntil: "day",
  sailingDate: "day",
  net: "amount",
  tax: "amount",
  total: "amount",
};

/** Something on a page that has the shape of a value: a day, an amount, a reference, an identifier. */
export interface Spot {
  readonly kind: SpotKind;
  readonly page: number;
  readonly line: number;
  /** Index of its phrase in the line. */
  readonly phrase: number;
  /** First word of it in its phrase, and how many. */
  readonly from: number;
  readonly count: number;
  readonly text: string;
  readonly box: Box;
  /** What it can be, normalised, the likelier first: days YYYY-MM-DD, amounts 1234.56, identifiers without blanks. */
  readonly values: readonly string[];
  /** Amounts: whether it shows places or a currency. A bare figure may be a quantity. */
  readonly isMoney: boolean;
  readonly currency: string | null;
  /** Whether letters were taken for figures to read it. */
  readonly mended: boolean;
}

const symbols: Readonly<Record<string, string>> = { "£": "GBP", "€": "EUR", $: "USD" };
/** Currencies that documents of the scenario's part of the world show (ISO 4217). */
const currencies = new Set("GBP EUR USD CHF NOK SEK DKK ISK PLN CZK HUF RON BGN CAD AUD JPY".split(" "));

/** The currency a word names, by its code or sign; null when it names none. */
export function currencyOf(word: string): string | null {
  const bare = word.replace(/[()[\]:.,]/g, "");
  if (currencies.has(bare)) return bare;
  if (/^euros?$/i.test(bare)) return "EUR";
  return symbols[bare] ?? null;
}

/** What the papers' own habits say of ambiguous values. */
export interface Habits {
  readonly places: "." | "," | null;
  readonly order: "dmy" | "mdy" | null;
}

/** What was found on pages, by habits: reading, naming records and learning ask for the same of the same page. */
const found = new WeakMap<ReadPage, Map<string, readonly Spot[]>>();

/** Everything on a page that has the shape of a value. Linear in its words; asked again of the same page it answers the same spots. */
export function spotValues(page: ReadPage, habits: Habits): readonly Spot[] {
  const key = `${habits.places} ${habits.order}`;
  const known = found.get(page)?.get(key);
  if (known) return known;
  const spots = page.lines.flatMap((phrases, line) => phrases.flatMap((phrase, index) => spotsOf(page, phrase, line, index, habits)));
  found.set(page, new Map([...(found.get(page) ?? []), [key, spots]]));
  return spots;
}

/** How amounts and days are written on some pages: the sign that parts the places, and the order of day and month. */
export function habitsOf(pages: readonly ReadPage[]): Habits {
  const counts = pages.map(habitsOn);
  const sum = (of: keyof HabitCounts): number => counts.reduce((s, c) => s + c[of], 0);
  const [points, commas, dmy, mdy] = [sum("points"), sum("commas"), sum("dmy"), sum("mdy")];
  return { places: points === commas ? null : points > commas ? "." : ",", order: dmy === mdy ? null : dmy > mdy ? "dmy" : "mdy" };
}

interface HabitCounts {
  points: number;
  commas: number;
  dmy: number;
  mdy: number;
}
const counted = new WeakMap<ReadPage, HabitCounts>();

function habitsOn(page: ReadPage): HabitCounts {
  const known = counted.get(page);
  if (known) return known;
  const counts: HabitCounts = { points: 0, commas: 0, dmy: 0, mdy: 0 };
  for (const phrase of page.lines.flat())
    for (const word of phrase.words) {
      // A word without a figure is neither.
      if (!/\d/.test(word.text)) continue;
      const amount = parseAmount(word.text.replace(/[£€$]/g, "").replace(/[A-Z]{3}$/, ""));
      if (amount && amount.other === null && /[.,]\d{2}-?$/.test(word.text)) {
        if (amount.places === ".") counts.points++;
        if (amount.places === ",") counts.commas++;
      }
      const day = parsePaperDay(word.text);
      if (day?.order === "dmy") counts.dmy++;
      if (day?.order === "mdy") counts.mdy++;
    }
  counted.set(page, counts);
  return counts;
}

function spotsOf(page: ReadPage, phrase: Phrase, line: number, index: number, habits: Habits): readonly Spot[] {
  const spots: Spot[] = [];
  const words = phrase.words;
  const taken = new Set<number>();
  const put = (kind: SpotKind, from: number, count: number, found: Partial<Spot> & { values: readonly string[] }): void => {
    const used = words.slice(from, from + count);
    spots.push({
      isMoney: false,
      currency: null,
      mended: false,
      kind,
      page: page.number,
      line,
      phrase: index,
      from,
      count,
      text: used.map((w) => w.text).join(" "),
      box: boxAround(used.map((w) => w.box)),
      ...found,
    });
  };
  for (let i = 0; i < words.length; i++) {
    if (taken.has(i)) continue;
    const iban = /^[A-Z][A-Z0-9]/i.test(words[i]?.text ?? "") ? ibanAt(words, i) : null;
    if (iban) {
      put("iban", i, iban.count, { values: [iban.value], mended: iban.mended });
      for (let k = 0; k < iban.count; k++) taken.add(i + k);
      continue;
    }
    const vat = vatAt(words, i);
    if (vat) {
      put("vatNumber", i, vat.count, { values: [vat.value] });
      for (let k = 0; k < vat.count; k++) taken.add(i + k);
      continue;
    }
    const mail = /^[<(]?([A-Za-z0-9._%+-]{1,64}@[A-Za-z0-9.-]{1,200}\.[A-Za-z]{2,24})[>),.;]?$/.exec(words[i]?.text ?? "")?.[1];
    if (mail) {
      put("mail", i, 1, { values: [mail.toLowerCase()] });
      continue;
    }
    const day = dayAt(words, i, page.fromPicture, habits);
    if (day) {
      put("day", i, day.count, { values: day.values, mended: day.mended });
      for (let k = 0; k < day.count; k++) taken.add(i + k);
      continue;
    }
    const amount = amountAt(words, i, page.fromPicture, habits);
    if (amount) {
      put("amount", amount.from, amount.count, amount);
      if (amount.isMoney) for (let k = 0; k < amount.count; k++) taken.add(amount.from + k);
    }
    if (!amount?.isMoney)
      for (const reference of referencesAt(words, i)) put("reference", i, reference.count, { values: [reference.value] });
  }
  return spots;
}

/** An account number from a word on: they are set in groups of four. */
function ibanAt(words: readonly Word[], from: number): { value: string; count: number; mended: boolean } | null {
  let text = "";
  for (let count = 1; count <= 10 && from + count <= words.length; count++) {
    text += (words[from + count - 1]?.text ?? "").replace(/[,;:.]+$/, "");
    if (text.length > 36) return null;
    if (text.length < 15) continue;
    const value = mendIban(text);
    if (value !== null) return { value, count, mended: value !== text.toUpperCase().replace(/[\s.-]/g, "") };
  }
  return null;
}

function vatAt(words: readonly Word[], from: number): { value: string; count: number } | null {
  let best: { value: string; count: number } | null = null;
  let text = "";
  if (!/^[A-Z]{2}([A-Z0-9. -]*\d[A-Z0-9.-]*)?$/.test((words[from]?.text ?? "").replace(/[,;:)]+$/, ""))) return null;
  for (let count = 1; count <= 6 && from + count <= words.length; count++) {
    const word = (words[from + count - 1]?.text ?? "").replace(/[,;:)]+$/, "");
    if (count > 1 && !/^[A-Z0-9.]{1,9}$/.test(word)) break;
    text += word;
    const value = parseVatNumber(text);
    if (value !== null && /\d{6}/.test(value.replace(/\D/g, "").padEnd(6, "x"))) best = { value, count };
  }
  return best;
}

function dayAt(
  words: readonly Word[],
  from: number,
  fromPicture: boolean,
  habits: Habits,
): { values: readonly string[]; count: number; mended: boolean } | null {
  for (let count = Math.min(5, words.length - from); count >= 1; count--) {
    const text = words
      .slice(from, from + count)
      .map((w) => w.text)
      .join(" ")
      .replace(/^[(]+|[).,;]+$/g, "");
    const plain = parsePaperDay(text);
    const mended = plain === null && fromPicture && count <= 3 && !/[a-z]{4}/i.test(text) ? parsePaperDay(toFigures(text)) : null;
    const day = plain ?? mended ?? (plain === null && fromPicture && count === 3 ? mendedNamedDay(words.slice(from, from + 3)) : null);
    if (!day) continue;
    // A day of eight figures is more often a number.
    if (count === 1 && /^\d{8}$/.test(text)) continue;
    const swap = day.values.length === 2 && habits.order === "mdy";
    return { values: swap ? [...day.values].reverse() : day.values, count, mended: plain === null };
  }
  return null;
}

/** "l8 November 2O26": figures mended on both sides of a month's name. */
function mendedNamedDay(words: readonly Word[]): ReturnType<typeof parsePaperDay> {
  const [a, b, c] = words.map((w) => w.text);
  if (a === undefined || b === undefined || c === undefined) return null;
  if (monthNamed(b) !== null) return parsePaperDay(`${toFigures(a.replace(/[.,]$/, ""))} ${b} ${toFigures(c.replace(/[.,]$/, ""))}`);
  if (monthNamed(a) !== null) return parsePaperDay(`${a} ${toFigures(b.replace(/[.,]$/, ""))} ${toFigures(c.replace(/[.,]$/, ""))}`);
  return null;
}

function amountAt(
  words: readonly Word[],
  from: number,
  fromPicture: boolean,
  habits: Habits,
): (Partial<Spot> & { from: number; count: number; values: readonly string[]; isMoney: boolean }) | null {
  const first = words[from]?.text ?? "";
  const lead = currencyOf(first);
  const start = lead !== null && from + 1 < words.length ? from + 1 : from;
  for (let count = Math.min(4, words.length - start); count >= 1; count--) {
    const raw = words
      .slice(start, start + count)
      .map((w) => w.text)
      .join(" ");
    // A colon or star beside a figure belongs to the table, not to it.
    let text = raw.replace(/[*:;]+$/, "");
    let currency = lead;
    const glued = /^([£€$]|[A-Z]{3})\s?(?=[-(]?\d)|(?<=\d-?\)?)\s?([£€$]|[A-Z]{3})$/.exec(text);
    if (glued) {
      const named = currencyOf(glued[1] ?? glued[2] ?? "");
      if (named === null) continue;
      currency = named;
      text = (glued[1] !== undefined ? text.slice(glued[0].length) : text.slice(0, -glued[0].length)).trim();
    }
    let mended = false;
    let amount = parseAmount(text, habits.places);
    if (!amount && fromPicture && /\d/.test(text) && /^[-\dOoIlSsBZ|.,' ]+$/.test(text)) {
      amount = parseAmount(
        toFigures(text)
          .replace(/([.,]) (\d{2})$/, "$1$2")
          .replace(/(\d) ([.,]\d{2})$/, "$1$2"),
        habits.places,
      );
      mended = amount !== null;
    }
    // Words off pictures often part an amount at its sign: "5,835. 00".
    if (!amount && fromPicture && count > 1) {
      amount = parseAmount(text.replace(/([.,]) (\d{2})$/, "$1$2").replace(/(\d) ([.,]\d{2})$/, "$1$2"), habits.places);
      mended = amount !== null;
    }
    if (!amount) continue;
    const next = words[start + count]?.text ?? "";
    if (next === "%" || /^%/.test(next)) return null;
    const after = currencyOf(next);
    // A currency behind counts for this amount unless it leads the next one.
    const behind = currency === null && after !== null && !/^[-(]?\d/.test(words[start + count + 1]?.text ?? "") ? after : null;
    const isMoney =
      amount.places !== null && /[.,]\d{2}\)?-?$/.test(text) ? true : currency !== null || behind !== null || /[.,][-–]+$/.test(text);
    if (count > 1 && !isMoney) continue;
    const begin = lead !== null ? from : start;
    return {
      from: begin,
      count: start - begin + count + (behind !== null ? 1 : 0),
      values: amount.other === null ? [amount.value] : [amount.value, amount.other],
      isMoney,
      currency: currency ?? behind,
      mended,
    };
  }
  return null;
}

/** References that begin at a word: it alone, and with the next when a few capitals stand before a figure ("PO 6127"). */
function referencesAt(words: readonly Word[], from: number): readonly { value: string; count: number }[] {
  const clean = (text: string): string => text.replace(/^[([{"'#:]+|[)\]}"',;:.]+$/g, "");
  const first = clean(words[from]?.text ?? "");
  const second = clean(words[from + 1]?.text ?? "");
  const found: { value: string; count: number }[] = [];
  if (
    /^[A-Za-z]{1,5}[0O]?[-/.]?$/.test(first) &&
    /^[-/]?\d[A-Za-z0-9/-]{2,20}$/.test(second) &&
    monthNamed(first) === null &&
    !/^(no|nr|n|of|to|am|le|page|seite|vom|den|the|id|ref|tel|fax|acc|date|du|order|item|code)$/i.test(first)
  )
    found.push({ value: `${first} ${second}`, count: 2 });
  if (
    first.length >= 2 &&
    first.length <= 32 &&
    /\d/.test(first) &&
    !/%|@|:\/\//.test(first) &&
    /^[A-Za-z0-9À-ÿ][A-Za-z0-9À-ÿ/\\._#+-]*$/.test(first)
  )
    found.push({ value: first, count: 1 });
  return found;
}

/** The shape of a value: letters, figures and what parts them, so that "77-3108" and "77-3141" are alike. */
export function shapeOfValue(value: string): string {
  return value.replace(/[a-z]+/gi, "a").replace(/\d+/g, (d) => (d.length > 4 ? "9+" : "9".repeat(d.length)));
}
