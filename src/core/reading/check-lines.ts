import type { ReadPage } from "./page-lines.ts";
import { hundredths, parseAmount } from "./parse-amount.ts";
import type { PaperReadings } from "./reading.ts";
import { type PaperRows, sumOfLines } from "./read-rows.ts";
import { habitsOf } from "./spot-values.ts";

/** A penny for each line: each is rounded for itself. */
const ROUNDING = 1;
/** What a doubted sum is worth at most. */
const DOUBTED = 0.7;

/**
 * Lays a paper's net amount beside what its lines come to. Where they differ, and the lines' sum stands nowhere on the document, it is said, and the net is
 * not sure. Says nothing where not all lines are known. Pure.
 */
export function checkLines(read: PaperReadings, rows: PaperRows, pages: readonly ReadPage[]): PaperReadings {
  const net = read.readings.find((r) => r.field === "net");
  const sum = sumOfLines(rows);
  if (!net || sum === null || !isUnbroken(pages)) return read;
  const off = Math.abs(hundredths(sum) - Math.abs(hundredths(net.value)));
  // Carriage and discounts stand between a sum of the goods and the net: then the sum itself is printed too.
  if (off <= ROUNDING * Math.max(2, rows.lines.length) || isPrinted(hundredths(sum), pages)) return read;
  return {
    ...read,
    readings: read.readings.map((r) => (r.field === "net" ? { ...r, certainty: Math.min(r.certainty, DOUBTED) } : r)),
    doubts: [...read.doubts, { code: "lines-differ", fields: ["net"], detail: `${sum} ≠ ${net.value}` }],
  };
}

/** Whether no page is missing between the first and the last: a sum of some pages is no sum. */
const isUnbroken = (pages: readonly ReadPage[]): boolean => pages.every((p, i) => p.number === (pages[0]?.number ?? 1) + i);

function isPrinted(sum: number, pages: readonly ReadPage[]): boolean {
  const { places } = habitsOf(pages);
  return pages.some((page) =>
    page.lines.flat().some((phrase) =>
      [phrase.text, ...phrase.words.map((w) => w.text)].some((t) => {
        const amount = parseAmount(t.replace(/[£€$]|[A-Z]{3}/g, "").trim(), places);
        return amount !== null && hundredths(amount.value) === sum;
      }),
    ),
  );
}
