import type { PaperLine } from "../reading/read-rows.ts";
import type { RecordLine } from "../records/record-line.ts";
import { foldReference } from "../shared/fold-text.ts";
import { matchLines } from "./match-lines.ts";
import { amountsAgree, pricesAgree, quantitiesAgree, type Tolerance } from "./tolerance.ts";

/** What can be found wrong, or worth saying, when an invoice is laid beside its order. */
export const findingCodes = [
  "quantity-over-order",
  "quantity-over-received",
  "price-over",
  "price-under",
  "not-ordered",
  "total-over",
  "total-under",
  "invoiced-over-order",
  "nothing-received",
  "other-currency",
  "same-invoice",
  "within-tolerance",
] as const;
export type FindingCode = (typeof findingCodes)[number];

/** One thing found. `line` is the index of the line it is about, null for the whole. */
export interface Finding {
  readonly code: FindingCode;
  readonly line: number | null;
  /** What it is about: a line's words, a record's key, or nothing. */
  readonly what: string;
  /** What the document says, and what the record says or how much lies between. */
  readonly paper: string | null;
  readonly record: string | null;
}

type Find = (code: FindingCode, line: number | null, what: string, paper?: string | null, record?: string | null) => void;

/** A line of the document beside that of the order, or a line of the order that the document does not have. */
export interface ComparedLine {
  readonly text: string;
  readonly unit: string | null;
  readonly paper: { readonly quantity: string | null; readonly price: string | null; readonly amount: string | null } | null;
  readonly order: { readonly quantity: string | null; readonly price: string | null; readonly amount: string | null } | null;
  /** Received of it so far; null where no receipt says. */
  readonly received: string | null;
  /** On earlier invoices; null where none has lines. */
  readonly invoicedBefore: string | null;
  /** Document less order, of what this line is worth; null where one is missing. */
  readonly difference: string | null;
  readonly state: "same" | "within" | "apart" | "missing" | "unordered";
  readonly page: number | null;
  readonly box: PaperLine["box"];
}

/** An earlier invoice of the order. */
export interface EarlierInvoice {
  readonly key: string;
  readonly number: string | null;
  readonly date: string | null;
  readonly net: string | null;
  readonly total: string | null;
  readonly lines: readonly RecordLine[];
}

/** What is compared. Amounts are decimals with a point. */
export interface InvoiceAsked {
  readonly paper: {
    readonly number: string | null;
    readonly date: string | null;
    readonly currency: string | null;
    readonly net: string | null;
    readonly total: string | null;
    readonly lines: readonly PaperLine[];
    /** A credit gives back: its quantities are not added to what was invoiced. */
    readonly isCredit: boolean;
  };
  readonly order: {
    readonly key: string;
    readonly currency: string | null;
    readonly net: string | null;
    readonly total: string | null;
    readonly lines: readonly RecordLine[];
  };
  /** Null where receipts have no bearing: an order's confirmation comes before its goods. */
  readonly receipts: readonly { readonly key: string; readonly date: string | null; readonly lines: readonly RecordLine[] }[] | null;
  readonly earlier: readonly EarlierInvoice[];
  readonly tolerance: Tolerance;
}

export interface InvoiceCompared {
  readonly kind: "invoice";
  readonly lines: readonly ComparedLine[];
  readonly findings: readonly Finding[];
  readonly sums: {
    /** "net" or "total": what both say of the whole. Null where nothing can be compared. */
    readonly of: "net" | "total" | null;
    readonly paper: string | null;
    readonly order: string | null;
    readonly invoicedBefore: string;
    readonly difference: string | null;
  };
  readonly verdict: "fits" | "within" | "differs" | "cannot-tell";
}

const number = (text: string | null | undefined): number | null => (text == null || text === "" ? null : Number(text));
const money = (n: number): string => (Math.round(n * 100) / 100).toFixed(2);
/** Prices below a penny keep their places. */
const priceText = (n: number): string => (Math.abs(n * 100 - Math.round(n * 100)) < 1e-6 ? money(n) : String(Math.round(n * 1e6) / 1e6));
const quantityText = (n: number): string => String(Math.round(n * 1000) / 1000);

/** What a line is worth: its amount, else quantity times price. */
function worth(
  line:
    | {
        readonly quantity?: string | null | undefined;
        readonly price?: string | null | undefined;
        readonly amount?: string | null | undefined;
      }
    | undefined,
): number | null {
  if (!line) return null;
  const amount = number(line.amount);
  if (amount !== null) return amount;
  const [quantity, price] = [number(line.quantity), number(line.price)];
  return quantity !== null && price !== null ? quantity * price : null;
}

/**
 * Lays a supplier's invoice beside its order, what was received of it, and what was invoiced before: line by line where both have lines, and as a whole.
 * Pure and total: whatever is missing is left out, and said by the verdict. Rule: docs/rules.md#comparing
 */
export function compareInvoice(asked: InvoiceAsked): InvoiceCompared {
  const { paper, order, tolerance } = asked;
  const findings: Finding[] = [];
  const find: Find = (code, line, what, paper = null, record = null) => void findings.push({ code, line, what, paper, record });
  const same = asked.earlier.find((e) => isSameInvoice(paper, e));
  if (same) find("same-invoice", null, same.key);
  if (paper.currency !== null && order.currency !== null && paper.currency !== order.currency)
    find("other-currency", null, "", paper.currency, order.currency);
  const sameCurrency = !findings.some((f) => f.code === "other-currency");
  // An invoice that is there already is no earlier part of the same order.
  const earlier = asked.earlier.filter((e) => e !== same);
  const ofOrder = order.lines.map(asComparable);
  const received = asked.receipts?.some((r) => r.lines.length > 0)
    ? sumPerLine(
        ofOrder,
        asked.receipts.map((r) => r.lines),
      )
    : null;
  const before = earlier.some((e) => e.lines.length > 0)
    ? sumPerLine(
        ofOrder,
        earlier.map((e) => e.lines),
      )
    : null;
  const lines = order.lines.length > 0 && paper.lines.length > 0 ? compareLines(asked, ofOrder, received, before, find) : [];
  if (asked.receipts?.length === 0 && !paper.isCredit && order.lines.length + Number(order.net ?? order.total ?? 0) > 0)
    find("nothing-received", null, order.key);
  const of = paper.net !== null && order.net !== null ? "net" : paper.total !== null && order.total !== null ? "total" : null;
  const paperSum = of === null ? null : number(paper[of]);
  const orderSum = of === null ? null : number(order[of]);
  const invoicedBefore = earlier.reduce((s, e) => s + (number(of === "total" ? e.total : e.net) ?? 0), 0);
  let difference: number | null = null;
  if (of !== null && paperSum !== null && orderSum !== null && sameCurrency && !paper.isCredit) {
    difference = paperSum - orderSum;
    const agree = amountsAgree(paperSum, orderSum, tolerance);
    // Part of an order may be invoiced; more than all of it may not.
    if (agree === "apart" && difference > 0) find("total-over", null, money(difference), paper[of], order[of]);
    else if (agree === "apart" && !isPart(lines)) find("total-under", null, money(-difference), paper[of], order[of]);
    else if (agree === "within") find("within-tolerance", null, money(difference), paper[of], order[of]);
    const over = paperSum + invoicedBefore - orderSum;
    if (invoicedBefore > 0 && difference <= 0 && over > 0 && amountsAgree(paperSum + invoicedBefore, orderSum, tolerance) === "apart")
      find("invoiced-over-order", null, money(over), money(invoicedBefore), order[of]);
  }
  return {
    kind: "invoice",
    lines,
    findings,
    sums: {
      of,
      paper: of === null ? null : paper[of],
      order: of === null ? null : order[of],
      invoicedBefore: money(invoicedBefore),
      difference: difference === null ? null : money(difference),
    },
    verdict: verdictOf(findings, of !== null, lines),
  };
}

function verdictOf(findings: readonly Finding[], hasSums: boolean, lines: readonly ComparedLine[]): InvoiceCompared["verdict"] {
  if (findings.some((f) => f.code !== "within-tolerance")) return "differs";
  if (!hasSums && lines.length === 0) return "cannot-tell";
  return findings.length > 0 || lines.some((l) => l.state === "within") ? "within" : "fits";
}

/** Whether the lines show that only part of the order is invoiced, each as it was ordered. */
const isPart = (lines: readonly ComparedLine[]): boolean =>
  lines.length > 0 && lines.every((l) => l.state !== "apart" && l.state !== "unordered");

const asComparable = (l: RecordLine) => ({ item: l.item, text: l.text, quantity: number(l.quantity), price: number(l.price) });

/** What some documents say of each line of the order, added up. */
function sumPerLine(ofOrder: ReturnType<typeof asComparable>[], lists: readonly (readonly RecordLine[])[]): readonly number[] {
  const sums = ofOrder.map(() => 0);
  for (const list of lists)
    for (const [i, j] of matchLines(list.map(asComparable), ofOrder)) sums[j] = (sums[j] ?? 0) + (number(list[i]?.quantity) ?? 0);
  return sums;
}

function compareLines(
  asked: InvoiceAsked,
  ofOrder: ReturnType<typeof asComparable>[],
  received: readonly number[] | null,
  before: readonly number[] | null,
  find: Find,
): readonly ComparedLine[] {
  const { paper, order, tolerance } = asked;
  const pairs = matchLines(
    paper.lines.map((l) => ({ text: l.text, quantity: number(l.quantity), price: number(l.price) })),
    ofOrder,
  );
  const shown = paper.lines.map((line, i): ComparedLine => {
    const j = pairs.get(i);
    const ordered = j === undefined ? undefined : order.lines[j];
    const base = {
      text: line.text,
      unit: line.unit ?? ordered?.unit ?? null,
      paper: { quantity: line.quantity, price: line.price, amount: line.amount },
      page: line.page,
      box: line.box,
    };
    if (j === undefined || !ordered) {
      find("not-ordered", i, line.text);
      return { ...base, order: null, received: null, invoicedBefore: null, difference: null, state: "unordered" };
    }
    const states: ("same" | "within" | "apart")[] = [];
    const [quantity, orderedQuantity] = [number(line.quantity), number(ordered.quantity)];
    const [price, orderedPrice] = [number(line.price), number(ordered.price)];
    const sofar = before?.[j] ?? 0;
    const got = received?.[j];
    if (quantity !== null && orderedQuantity !== null && !paper.isCredit) {
      const agree = quantitiesAgree(quantity + sofar, orderedQuantity, tolerance);
      const isOver = quantity + sofar > orderedQuantity;
      // Less than was ordered is a part, and no difference of its own.
      states.push(isOver ? agree : agree === "apart" ? "same" : agree);
      if (isOver && agree === "apart")
        find("quantity-over-order", i, line.text, quantityText(quantity + sofar), quantityText(orderedQuantity));
      else if (got !== undefined && quantity + sofar > got && quantitiesAgree(quantity + sofar, got, tolerance) === "apart") {
        states.push("apart");
        find("quantity-over-received", i, line.text, quantityText(quantity + sofar), quantityText(got));
      }
    }
    if (price !== null && orderedPrice !== null) {
      const agree = pricesAgree(price, orderedPrice, tolerance);
      states.push(agree);
      if (agree === "apart")
        find(price > orderedPrice ? "price-over" : "price-under", i, line.text, priceText(price), priceText(orderedPrice));
    }
    const [mine, theirs] = [worth(line), worth(ordered)];
    return {
      ...base,
      order: { quantity: ordered.quantity ?? null, price: ordered.price ?? null, amount: ordered.amount ?? null },
      received: got === undefined ? null : quantityText(got),
      invoicedBefore: before ? quantityText(sofar) : null,
      difference: mine === null || theirs === null ? null : money(mine - theirs),
      state: states.includes("apart") ? "apart" : states.includes("within") ? "within" : "same",
    };
  });
  const found = new Set(pairs.values());
  const missing = order.lines.flatMap((ordered, j): ComparedLine[] =>
    found.has(j)
      ? []
      : [
          {
            text: ordered.text,
            unit: ordered.unit ?? null,
            paper: null,
            order: { quantity: ordered.quantity ?? null, price: ordered.price ?? null, amount: ordered.amount ?? null },
            received: received ? quantityText(received[j] ?? 0) : null,
            invoicedBefore: before ? quantityText(before[j] ?? 0) : null,
            difference: null,
            state: "missing",
            page: null,
            box: null,
          },
        ],
  );
  return [...shown, ...missing];
}

/** The same invoice: the same number; or, where one of them has none, the same day and total. */
export function isSameInvoice(
  paper: { readonly number: string | null; readonly date: string | null; readonly total: string | null },
  other: { readonly number: string | null; readonly date: string | null; readonly total: string | null },
): boolean {
  if (paper.number !== null && other.number !== null) {
    if (foldReference(paper.number) === foldReference(other.number)) return true;
    // Numbers that differ, yet the same day and the very same total: only a letter of it is another.
    return (
      paper.date !== null &&
      paper.date === other.date &&
      paper.total !== null &&
      Number(paper.total) === Number(other.total) &&
      isNear(foldReference(paper.number), foldReference(other.number))
    );
  }
  return paper.date !== null && paper.date === other.date && paper.total !== null && Number(paper.total) === Number(other.total);
}

/** One sign differs, is missing, or two next to each other changed places. */
function isNear(a: string, b: string): boolean {
  if (Math.abs(a.length - b.length) > 1 || Math.min(a.length, b.length) < 4) return false;
  let start = 0;
  while (start < a.length && start < b.length && a[start] === b[start]) start++;
  let end = 0;
  while (end < a.length - start && end < b.length - start && a.at(-1 - end) === b.at(-1 - end)) end++;
  const [restA, restB] = [a.slice(start, a.length - end), b.slice(start, b.length - end)];
  return restA.length <= 1 && restB.length <= 1
    ? true
    : restA.length === 2 && restB.length === 2 && restA[0] === restB[1] && restA[1] === restB[0];
}
