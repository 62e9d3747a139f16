import type { StatedInvoice } from "../reading/read-rows.ts";
import { foldReference } from "../shared/fold-text.ts";

/** An invoice that we know of, as a record, a filed document or one that waits. */
export interface KnownInvoice {
  readonly number: string | null;
  readonly date: string | null;
  readonly total: string | null;
  readonly currency: string | null;
  /** "record" is posted in the business system; "document" only filed; "arrival" waits in Arrivals. */
  readonly as: "record" | "document" | "arrival";
  readonly isPaid: boolean;
  /** Whether its document is here: filed to it, or waiting. */
  readonly hasPaper: boolean;
  /** Where one gets to it: a record's type and key, a document's code, an arrival's id. */
  readonly at: string;
  readonly label: string;
}

export type StatedState = "paid" | "on-file" | "waiting" | "other-amount" | "missing";

export interface StatedLine {
  readonly number: string;
  readonly date: string | null;
  readonly amount: string | null;
  readonly state: StatedState;
  /** What we know of it; null when it is missing. */
  readonly known: {
    readonly at: string;
    readonly as: KnownInvoice["as"];
    readonly label: string;
    readonly total: string | null;
    readonly hasPaper: boolean;
  } | null;
  /** Stated less known; null where they agree or one is missing. */
  readonly difference: string | null;
  readonly page: number | null;
  readonly box: StatedInvoice["box"];
}

export interface StatementCompared {
  readonly kind: "statement";
  readonly lines: readonly StatedLine[];
  readonly counts: Readonly<Record<StatedState, number>>;
  /** What its lines come to, and what it says they come to. */
  readonly sum: string;
  readonly stated: string | null;
  /** Invoices of the account that are open with us and not on it. */
  readonly unstated: readonly {
    readonly at: string;
    readonly as: KnownInvoice["as"];
    readonly label: string;
    readonly total: string | null;
    readonly date: string | null;
  }[];
  readonly verdict: "fits" | "differs" | "cannot-tell";
}

/** Open invoices of ours that are named beside it. */
const UNSTATED_MAX = 50;
const rank: Readonly<Record<KnownInvoice["as"], number>> = { record: 0, document: 1, arrival: 2 };

/**
 * Lays an account's statement beside the invoices we have: each is paid, on file, waiting, there with another amount, or missing. Numbers are compared
 * without blanks and signs, and by their figures where that is the only one. Pure and total. Rule: docs/rules.md#comparing
 */
export function compareStatement(asked: {
  readonly stated: readonly StatedInvoice[];
  readonly total: string | null;
  /** The day it is of: what came later cannot stand on it. */
  readonly asOf: string | null;
  readonly known: readonly KnownInvoice[];
}): StatementCompared {
  const byNumber = new Map<string, KnownInvoice[]>();
  const byFigures = new Map<string, KnownInvoice[]>();
  for (const k of asked.known) {
    if (k.number === null) continue;
    const folded = foldReference(k.number);
    byNumber.set(folded, [...(byNumber.get(folded) ?? []), k]);
    const figures = figuresOf(folded);
    if (figures.length >= 3) byFigures.set(figures, [...(byFigures.get(figures) ?? []), k]);
  }
  const used = new Set<KnownInvoice>();
  const lines = asked.stated.map((s): StatedLine => {
    const folded = foldReference(s.number);
    const found = byNumber.get(folded) ?? onlyOne(byFigures.get(figuresOf(folded)));
    const best = [...found].sort((a, b) => rank[a.as] - rank[b.as] || (a.at < b.at ? -1 : 1))[0];
    for (const k of found) used.add(k);
    const place = { number: s.number, date: s.date, amount: s.amount, page: s.page, box: s.box };
    if (!best) return { ...place, state: "missing", known: null, difference: null };
    const total = found.find((k) => k.total !== null)?.total ?? null;
    const known = { at: best.at, as: best.as, label: best.label, total, hasPaper: found.some((k) => k.hasPaper) };
    const differs = s.amount !== null && total !== null && Math.abs(Number(s.amount) - Number(total)) >= 0.005;
    const difference = differs ? (Number(s.amount) - Number(total)).toFixed(2) : null;
    const state: StatedState = found.some((k) => k.isPaid)
      ? "paid"
      : differs
        ? "other-amount"
        : best.as === "arrival"
          ? "waiting"
          : "on-file";
    return { ...place, state, known, difference };
  });
  const counts: Record<StatedState, number> = { paid: 0, "on-file": 0, waiting: 0, "other-amount": 0, missing: 0 };
  for (const l of lines) counts[l.state]++;
  const sum = lines.reduce((s, l) => s + Math.round(Number(l.amount ?? 0) * 100), 0) / 100;
  const sumDiffers = asked.total !== null && Math.abs(sum - Number(asked.total)) >= 0.005;
  const unstated = asked.known
    .filter((k) => k.as !== "arrival" && !k.isPaid && !used.has(k) && (asked.asOf === null || k.date === null || k.date <= asked.asOf))
    // A filed document of a posted invoice is the same invoice.
    .filter(
      (k) =>
        k.as === "record" ||
        !asked.known.some(
          (o) => o.as === "record" && o.number !== null && k.number !== null && foldReference(o.number) === foldReference(k.number),
        ),
    )
    .slice(0, UNSTATED_MAX)
    .map(({ at, as, label, total, date }) => ({ at, as, label, total, date }));
  const isWrong = counts.missing + counts["other-amount"] + counts.paid > 0 || sumDiffers;
  return {
    kind: "statement",
    lines,
    counts,
    sum: sum.toFixed(2),
    stated: asked.total,
    unstated,
    verdict: lines.length === 0 ? "cannot-tell" : isWrong ? "differs" : "fits",
  };
}

const figuresOf = (folded: string): string => folded.replace(/\D/g, "").replace(/^0+/, "");
const onlyOne = (list: readonly KnownInvoice[] | undefined): readonly KnownInvoice[] =>
  list && new Set(list.map((k) => foldReference(k.number ?? ""))).size === 1 ? list : [];
