import { foldLabel } from "./labels.ts";
import { type Box, boxAround, type Phrase, type ReadPage } from "./page-lines.ts";
import { parseAmount } from "./parse-amount.ts";
import { parsePaperDay } from "./parse-paper-day.ts";
import { habitsOf } from "./spot-values.ts";

/** A line of goods or services on a document. Numbers are decimals with a point; null where the document does not say. */
export interface PaperLine {
  readonly text: string;
  readonly quantity: string | null;
  readonly unit: string | null;
  readonly price: string | null;
  readonly amount: string | null;
  /** Null when it stands on no page: from structured data. */
  readonly page: number | null;
  readonly box: Box | null;
}

/** An invoice on a statement. A credit has a negative amount. */
export interface StatedInvoice {
  readonly number: string;
  /** YYYY-MM-DD. */
  readonly date: string | null;
  readonly amount: string | null;
  readonly page: number | null;
  readonly box: Box | null;
  /** The whole line as it stands there. */
  readonly text: string;
}

/** What stands in the tables of a document. */
export interface PaperRows {
  readonly lines: readonly PaperLine[];
  readonly invoices: readonly StatedInvoice[];
  /** Whether the table was seen to its end: then what its lines sum up to says something. */
  readonly isWhole: boolean;
}

type Column = "text" | "quantity" | "unit" | "price" | "amount" | "open" | "credit" | "number" | "date" | "other";

/** Rows kept of one document. */
export const ROWS_MAX = 1000;

/** Heads of columns in English, German and French, folded. */
const heads: Readonly<Record<Column, string>> = {
  text: "description|item|product|goods|article|details|service|services|particulars|bezeichnung|artikel|leistung|beschreibung|ware|produkt|text|designation|libelle|produit|prestation|item description|goods description|artikelbezeichnung",
  quantity:
    "qty|quantity|units|menge|anzahl|qte|quantite|stk|stuck|pcs|pieces|crates|delivered|qty delivered|geliefert|liefermenge|qte livree|quantite livree|colis",
  unit: "unit|einheit|unite|me|eh|uom",
  price:
    "price|unit price|rate|each|einzelpreis|preis|e preis|ep|stuckpreis|prix unitaire|p u|pu|prix|prix unit|price each|unit cost|cost|pu ht|p u ht|prix u",
  amount:
    "amount|total|value|line total|net|net amount|betrag|gesamt|gesamtpreis|g preis|gp|summe|montant|total ht|montant ht|amount due|total due|sum|debit|soll|debits|charges|gesamtbetrag|rechnungsbetrag|total ttc|montant ttc|net a payer|bruttobetrag|zu zahlen|endbetrag|gesamtsumme|grand total|original amount|invoice amount|total a payer",
  open: "open|outstanding|balance|balance due|amount open|offen|offener betrag|restbetrag|saldo|solde|restant|reste du|montant du|unpaid",
  credit: "credit|credits|haben|gutschrift|gutschriften|avoir|avoirs",
  number:
    "invoice|invoice no|invoice number|invoice #|number|document|document no|document number|doc no|doc ref|doc|reference|ref|our ref|no|rechnung|rechnungsnummer|rechnungs nr|rechnung nr|beleg|beleg nr|belegnummer|dokument nr|nr|facture|facture n|n de facture|numero|numero de facture|piece|piece n|n|your ref|transaction",
  date: "date|invoice date|date of issue|issued|document date|datum|rechnungsdatum|belegdatum|vom|ausstellungsdatum|date de facture|date d emission|le|date de facturation|dated|tax point|day",
  other:
    "pos|line|code|item no|item code|art nr|artikelnummer|sku|vat|vat %|tax|mwst|mwst %|ust|tva|tva %|packed|due|due date|fallig|fallig am|falligkeit|echeance|date d echeance|type|art|discount|rabatt|remise|days|age|currency|wahrung|devise|kg|weight|gewicht|poids|trailer|deck",
};
const columnOf = new Map<string, Column>(
  (Object.entries(heads) as [Column, string][]).flatMap(([column, words]) => words.split("|").map((w) => [w, column] as const)),
);
/** Beginnings of the line that sums a table up. */
const ends =
  /^(sub ?total|goods total|total|grand total|net|netto|nettobetrag|summe|zwischensumme|warenwert|gesamt|gesamtbetrag|rechnungsbetrag|bruttobetrag|endbetrag|gesamtsumme|zu zahlen|vat|tax|plus vat|mwst|ust|umsatzsteuer|zzgl|tva|t v a|montant|sous total|balance|saldo|solde|amount due|to pay|total to pay|net a payer|sum|carriage|balance due|carried forward|ubertrag|report|a reporter)\b/;

interface Head {
  readonly column: Column;
  readonly left: number;
  readonly right: number;
}

/** The lines of goods, and the invoices of a statement, that stand in the tables of some pages. Pure; never fails; what is in no table is not read. */
export function readRows(pages: readonly ReadPage[]): PaperRows {
  const habits = habitsOf(pages);
  const lines: PaperLine[] = [];
  const invoices: StatedInvoice[] = [];
  let isWhole = false;
  for (const page of pages) {
    let table: readonly Head[] | null = null;
    for (const phrases of page.lines) {
      if (phrases.length === 0) continue;
      const head = headsOf(phrases);
      if (head) {
        table = head;
        continue;
      }
      if (!table || lines.length + invoices.length >= ROWS_MAX) continue;
      const cells = cellsOf(phrases, table);
      const isStatement = !table.some((h) => h.column === "text" || h.column === "quantity");
      if (isEnd(phrases, cells, isStatement)) {
        isWhole = true;
        table = null;
        continue;
      }
      const place = page.isShown ? { page: page.number, box: boxAround(phrases.map((p) => p.box)) } : { page: null, box: null };
      const text = phrases.map((p) => p.text).join(" ");
      if (isStatement) {
        const stated = statedOf(cells, habits.places, habits.order);
        if (stated) invoices.push({ ...stated, ...place, text });
        continue;
      }
      const line = lineOf(cells, habits.places, page.fromPicture);
      const last = lines.at(-1);
      if (line) lines.push({ ...line, ...place });
      else if (last && last.page === place.page && isContinued(phrases, cells, last, page))
        // A description that runs on below.
        lines[lines.length - 1] = {
          ...last,
          text: `${last.text} ${
            cells
              .get("text")
              ?.map((p) => p.text)
              .join(" ") ?? ""
          }`.trim(),
        };
    }
  }
  return { lines, invoices, isWhole };
}

/** Columns of a line of heads; null for a line that is none. */
function headsOf(phrases: readonly Phrase[]): readonly Head[] | null {
  // Heads that are set close together come as one phrase; each word is looked at then.
  const found: Head[] = [];
  let known = 0;
  for (const phrase of phrases) {
    const column = columnOf.get(foldLabel(phrase.text));
    if (column) {
      known++;
      found.push({ column, left: phrase.box[0], right: phrase.box[0] + phrase.box[2] });
      continue;
    }
    const words = phrase.words.map((w) => ({ w, column: columnOf.get(foldLabel(w.text)) }));
    if (words.length > 1 && words.every((x) => x.column !== undefined))
      for (const { w, column: c } of words) {
        known++;
        found.push({ column: c ?? "other", left: w.box[0], right: w.box[0] + w.box[2] });
      }
    else found.push({ column: "other", left: phrase.box[0], right: phrase.box[0] + phrase.box[2] });
  }
  const has = (column: Column): boolean => found.some((h) => h.column === column);
  if (known < 2 || known < found.length / 2) return null;
  const isLines = (has("text") || has("quantity")) && (has("quantity") || has("amount") || has("price"));
  const isStatement = has("number") && (has("amount") || has("open") || has("credit")) && found.length >= 2;
  if (!isLines && !isStatement) return null;
  // "Date … Total" of a list of sums is no table: a head has no figures.
  if (phrases.some((p) => /\d{2}/.test(p.text))) return null;
  return found;
}

/** Which phrases of a line stand in which column. */
function cellsOf(phrases: readonly Phrase[], table: readonly Head[]): ReadonlyMap<Column, readonly Phrase[]> {
  const cells = new Map<Column, Phrase[]>();
  for (const phrase of phrases) {
    const left = phrase.box[0];
    const right = left + phrase.box[2];
    // Numbers are set flush with their head's right edge, words with its left one.
    const ranked = table
      .map((h) => ({
        h,
        away:
          left < h.right && right > h.left
            ? 0
            : Math.min(Math.abs(left - h.left), Math.abs(right - h.right), Math.abs((left + right - h.left - h.right) / 2)),
        edge: Math.min(Math.abs(left - h.left), Math.abs(right - h.right)),
      }))
      .sort((a, b) => a.away - b.away || a.edge - b.edge);
    const column = ranked[0]?.h.column ?? "other";
    cells.set(column, [...(cells.get(column) ?? []), phrase]);
  }
  return cells;
}

type Cells = ReadonlyMap<Column, readonly Phrase[]>;
const textOf = (cells: Cells, column: Column): string =>
  (cells.get(column) ?? [])
    .map((p) => p.text)
    .join(" ")
    .trim();

function isEnd(phrases: readonly Phrase[], cells: Cells, isStatement: boolean): boolean {
  const first = foldLabel(phrases[0]?.text ?? "");
  if (!ends.test(first)) return false;
  // "Total station, 4 pieces": an article whose name begins so has a quantity.
  return isStatement || !cells.has("quantity") || textOf(cells, "text") === "";
}

/** A number in a cell, with or without the sign of a currency, and what stands behind it. */
function numberIn(text: string, places: "." | "," | null): { readonly value: string; readonly unit: string | null } | null {
  const bare = text
    .replace(/[£€$]|\b(?:GBP|EUR|USD|CHF)\b/g, " ")
    .replace(/\s+/g, " ")
    .trim();
  const whole = parseAmount(bare, places);
  if (whole) return { value: whole.value, unit: null };
  const parted = /^([-(]?\d[\d.,'’ ]*\)?)\s*([A-Za-zÀ-ÿ./²³]{1,14}(?: [A-Za-z]{1,8})?)$/.exec(bare.slice(0, 60));
  const amount = parted ? parseAmount(parted[1] ?? "", places) : null;
  if (amount && parted) return { value: amount.value, unit: /^(cr|s|h)$/i.test(parted[2] ?? "") ? null : (parted[2] ?? null) };
  return null;
}

const plain = (value: string): string => (value.includes(".") ? value.replace(/\.?0+$/, "") : value);

function lineOf(cells: Cells, places: "." | "," | null, fromPicture: boolean): Omit<PaperLine, "page" | "box"> | null {
  const mend = (text: string): string =>
    fromPicture ? text.replace(/(?<=[\d.,])[Oo]|[Oo](?=[\d.,])/g, "0").replace(/(?<=\d)[lI](?=\d)/g, "1") : text;
  const quantity = numberIn(mend(textOf(cells, "quantity")), places);
  const price = numberIn(mend(textOf(cells, "price")), places);
  const amount = numberIn(mend(textOf(cells, "amount") || textOf(cells, "open")), places);
  const text = textOf(cells, "text");
  if ((quantity === null && amount === null) || text === "") return null;
  return {
    text: text.slice(0, 300),
    quantity: quantity ? plain(quantity.value) : null,
    unit: (textOf(cells, "unit") || quantity?.unit) ?? null,
    price: price?.value ?? null,
    amount: amount?.value ?? null,
  };
}

function statedOf(
  cells: Cells,
  places: "." | "," | null,
  order: "dmy" | "mdy" | null,
): Omit<StatedInvoice, "page" | "box" | "text"> | null {
  const number = textOf(cells, "number");
  if (!/\d/.test(number) || number.length > 40 || parsePaperDay(number)) return null;
  const credit = numberIn(textOf(cells, "credit"), places);
  const amount = numberIn(textOf(cells, "amount"), places) ?? numberIn(textOf(cells, "open"), places);
  const value = amount?.value ?? (credit ? negative(credit.value) : null);
  if (value === null) return null;
  const day = parsePaperDay(textOf(cells, "date"));
  const date = day ? (order === "mdy" && day.values.length > 1 ? day.values[1] : day.values[0]) : undefined;
  return { number, date: date ?? null, amount: value };
}

const negative = (value: string): string => (value.startsWith("-") || Number(value) === 0 ? value : `-${value}`);

function isContinued(phrases: readonly Phrase[], cells: Cells, last: PaperLine, page: ReadPage): boolean {
  const top = phrases[0]?.box[1] ?? 0;
  const under = last.box ? top - (last.box[1] + last.box[3]) : 0;
  return cells.size === 1 && cells.has("text") && under < page.letter * 1.2 && last.text.length < 300;
}

/** Amounts agree to a penny or two: prices are rounded. */
const ROUNDING = 0.025;

/** What the lines of a document sum up to, where each of them has an amount that fits its own quantity and price; null where that cannot be told. */
export function sumOfLines(rows: PaperRows): string | null {
  if (!rows.isWhole || rows.lines.length === 0) return null;
  let sum = 0;
  for (const line of rows.lines) {
    if (line.amount === null) return null;
    if (line.quantity !== null && line.price !== null) {
      const made = Number(line.quantity) * Number(line.price);
      // A price is rounded to what is printed; many pieces make that a difference.
      if (Math.abs(made - Number(line.amount)) > ROUNDING + Math.abs(Number(line.quantity)) * 0.006) return null;
    }
    sum += Math.round(Number(line.amount) * 100);
  }
  return (sum / 100).toFixed(2);
}
