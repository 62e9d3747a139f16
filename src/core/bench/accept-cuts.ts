import { type BenchTable, cutAtPages, dropPages, pageKey } from "./bench-table.ts";

/** A page with a code that says what a document is. */
export interface SayingPage {
  readonly source: number;
  readonly page: number;
  /** Whether the page is only there for its code. */
  readonly leftOut: boolean;
}

/** The table with all proposed cuts made, and the pages dropped that were only there to divide. */
export function acceptCuts(
  table: BenchTable,
  cuts: readonly { readonly source: number; readonly afterPage: number }[],
  codes: readonly SayingPage[],
): BenchTable {
  return dropPages(cutAtPages(table, cuts), new Set(codes.filter((c) => c.leftOut).map(pageKey)));
}

/**
 * The pile that a code speaks of: of a label the one with its page; of a sheet that is left out the one that begins behind it, before the next such
 * sheet. Null when there is none.
 */
export function pileOfCode(table: BenchTable, code: SayingPage, codes: readonly SayingPage[]): number | null {
  const end = Math.min(
    Number.MAX_SAFE_INTEGER,
    ...codes.filter((c) => c.leftOut && c.source === code.source && c.page > code.page).map((c) => c.page),
  );
  let best: { readonly page: number; readonly pile: number } | null = null;
  for (const pile of table.piles)
    for (const p of pile.pages) {
      const fits = p.source === code.source && (code.leftOut ? p.page > code.page && p.page < end : p.page === code.page);
      if (fits && (best === null || p.page < best.page)) best = { page: p.page, pile: pile.id };
    }
  return best?.pile ?? null;
}
