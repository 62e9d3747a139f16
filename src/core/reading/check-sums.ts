import type { Label } from "./label-of.ts";
import type { ReadPage } from "./page-lines.ts";
import { hundredths } from "./parse-amount.ts";
import type { Candidate } from "./read-paper.ts";
import type { ReadingDoubt, ReadingField } from "./reading.ts";
import type { Spot } from "./spot-values.ts";

export interface Sums {
  readonly byField: ReadonlyMap<ReadingField, readonly Candidate[]>;
  readonly doubts: readonly ReadingDoubt[];
}
interface Money {
  readonly spot: Spot;
  readonly labels: readonly Label[];
}

/** Log-odds for amounts that add up, and for the largest amount of a document whose total has no label. */
const ADDS_UP = 3.2;
const LARGEST = 0.6;
/** Sums are rounded; a penny for each rate of tax is no difference. */
const ROUNDING = 2;
/** Rates of tax that documents of the area show, in thousandths. */
const rates = [20, 25, 26, 50, 55, 70, 77, 81, 85, 90, 100, 120, 130, 190, 200, 210, 220, 230, 250];

/**
 * Net, tax and total by what stands beside them and by whether they add up. A triple that adds up is believed even where a label is missing; where
 * labelled ones do not, it is said, and none of them is sure.
 */
export function checkSums(
  byField: ReadonlyMap<ReadingField, readonly Candidate[]>,
  money: readonly Money[],
  pages: readonly ReadPage[],
): Sums {
  const doubts: ReadingDoubt[] = [];
  const named = new Map<ReadingField, Candidate[]>();
  for (const field of ["net", "tax", "total"] as const)
    named.set(
      field,
      (byField.get(field) ?? []).map((c) => ({ ...c, logit: c.logit + (c.spot.isMoney ? 0.4 : -1.6) + lower(c.spot, pages) })),
    );
  const shown = money.filter((m) => m.spot.isMoney);
  const claimed = (m: Money): boolean => m.labels.some((l) => l.meanings.some((x) => x.meaning === "paid" || x.meaning === "otherNumber"));
  const totals = named.get("total") ?? [];
  const largest = Math.max(0, ...shown.filter((m) => !claimed(m)).map((m) => hundredths(m.spot.values[0] ?? "0")));
  const spotsOfLargest = shown.filter((m) => !claimed(m) && hundredths(m.spot.values[0] ?? "0") === largest && largest > 0);
  const last = spotsOfLargest.at(-1);
  for (const c of totals) if (hundredths(c.value) === largest) add(totals, c, LARGEST);
  if (last && !totals.some((c) => c.spot === last.spot))
    totals.push({ spot: last.spot, value: last.spot.values[0] ?? "", logit: totals.length === 0 ? 0.2 : -1.2, label: null, learnt: false });
  // Triples: a total, and two or more amounts above it that make it up.
  const nets = named.get("net") ?? [];
  const taxes = withoutRates(named.get("tax") ?? []);
  const byValue = new Map<number, Money[]>();
  for (const m of shown) {
    const value = hundredths(m.spot.values[0] ?? "0");
    byValue.set(value, [...(byValue.get(value) ?? []), m]);
  }
  let isSettled = false;
  for (const total of [...totals].sort((a, b) => b.logit - a.logit).slice(0, 6)) {
    const whole = hundredths(total.value);
    if (whole === 0) continue;
    const found = tripleOf(whole, nets, taxes, byValue);
    if (!found) continue;
    isSettled = true;
    add(totals, total, ADDS_UP);
    raise(nets, found.net, shown, ADDS_UP + (found.isLabelled ? 0.6 : 0));
    if (found.tax !== null) raise(taxes, found.tax, shown, ADDS_UP + (found.isLabelled ? 0.6 : 0));
    break;
  }
  const [net, tax, total] = [top(nets), top(taxes), top(totals)];
  if (!isSettled && net && tax && total && net.label && tax.label && total.label) {
    const difference = Math.abs(hundredths(net.value) + hundredths(tax.value) - hundredths(total.value));
    if (difference > ROUNDING && taxes.filter((t) => t.logit > 1).length === 1)
      doubts.push({ code: "sums-differ", fields: ["net", "tax", "total"], detail: `${net.value} + ${tax.value} ≠ ${total.value}` });
  }
  const best = top(totals);
  if (best && best.spot.values.length > 1 && !isSettled) doubts.push({ code: "places-unclear", fields: ["total"], detail: best.spot.text });
  return {
    byField: new Map<ReadingField, readonly Candidate[]>([
      ["net", nets],
      ["tax", taxes],
      ["total", totals],
    ]),
    doubts,
  };
}

/** A bare rate, "TVA 20" of a scan that lost its sign, is no tax beside an amount that is one. */
const withoutRates = (taxes: Candidate[]): Candidate[] =>
  taxes.some((t) => t.spot.isMoney) ? taxes.filter((t) => t.spot.isMoney || hundredths(t.value) > RATE_MOST) : taxes;
/** The highest rate of tax there is, in hundredths of a per cent. */
const RATE_MOST = 3000;

/** Net and tax of a total: labelled ones that add up, else any two amounts of the document that do, at a usual rate. */
function tripleOf(
  total: number,
  nets: readonly Candidate[],
  taxes: readonly Candidate[],
  byValue: ReadonlyMap<number, readonly Money[]>,
): { net: number; tax: number | null; isLabelled: boolean } | null {
  const net = [...new Set(nets.filter((c) => c.logit > 0).map((c) => hundredths(c.value)))];
  const tax = [...new Set(taxes.filter((c) => c.logit > 0).map((c) => hundredths(c.value)))];
  const allTax = tax.reduce((s, t) => s + t, 0);
  for (const n of net) {
    for (const t of [...tax, allTax])
      if (Math.abs(n + t - total) <= ROUNDING && t > 0) return { net: n, tax: t === allTax && tax.length > 1 ? null : t, isLabelled: true };
    if (n === total && tax.every((t) => t === 0)) return { net: n, tax: tax.length > 0 ? 0 : null, isLabelled: true };
  }
  for (const [n] of [...byValue].sort((a, b) => b[0] - a[0]).slice(0, 60)) {
    const t = total - n;
    if (n <= t || t <= 0) continue;
    for (const near of [t, t - 1, t + 1]) {
      if (!byValue.has(near)) continue;
      const rate = (near / n) * 1000;
      const labelled = net.includes(n) || tax.includes(near);
      if (rates.some((r) => Math.abs(rate - r) < 0.6) || labelled) return { net: n, tax: near, isLabelled: labelled };
    }
  }
  return null;
}

function add(list: Candidate[], of: Candidate, more: number): void {
  const at = list.findIndex((c) => c.spot === of.spot);
  const found = list[at];
  if (found) list[at] = { ...found, logit: found.logit + more };
}

function raise(list: Candidate[], value: number, shown: readonly Money[], more: number): void {
  const labelled = list.filter((c) => hundredths(c.value) === value);
  if (labelled.length > 0) {
    for (const c of labelled.slice(0, 1)) add(list, c, more);
    return;
  }
  const m = shown.filter((s) => hundredths(s.spot.values[0] ?? "0") === value).at(-1);
  if (m) list.push({ spot: m.spot, value: m.spot.values[0] ?? "", logit: more - 1, label: null, learnt: false });
}

const top = (list: readonly Candidate[]): Candidate | null => [...list].sort((a, b) => b.logit - a.logit)[0] ?? null;

/** Sums stand below the lines they sum up: the lower on the last page, the likelier. */
function lower(spot: Spot, pages: readonly ReadPage[]): number {
  const page = pages.find((p) => p.number === spot.page);
  const share = page ? spot.box[1] / page.height : 0.5;
  return (spot.page === pages.at(-1)?.number ? 0.3 : 0) + 0.5 * share;
}
