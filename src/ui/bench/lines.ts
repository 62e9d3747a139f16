import type { BenchPage, BenchTable } from "#core/bench/bench-table.ts";

/** One line of the bench, as it is drawn only when it is in sight: a pile's head, or as many of its pages as fit side by side. */
export type BenchLine =
  | { readonly kind: "head"; readonly pile: number; readonly at: number; readonly count: number }
  | { readonly kind: "pages"; readonly pile: number; readonly from: number; readonly pages: readonly BenchPage[] }
  | { readonly kind: "tray"; readonly count: number }
  | { readonly kind: "dropped"; readonly pages: readonly BenchPage[] };

/** Room that a page takes across, with the gap before it, px. */
export const TILE_WIDTH = 148;
export const heights: Readonly<Record<BenchLine["kind"], number>> = { head: 54, pages: 206, tray: 48, dropped: 206 };

/** How many pages stand side by side. */
export const perLine = (width: number): number => Math.max(1, Math.floor((width - 20) / TILE_WIDTH));

/** All lines of the bench, from top to bottom. */
export function linesOf(table: BenchTable, across: number): readonly BenchLine[] {
  const lines: BenchLine[] = [];
  for (const [at, pile] of table.piles.entries()) {
    lines.push({ kind: "head", pile: pile.id, at, count: pile.pages.length });
    for (let from = 0; from < pile.pages.length; from += across)
      lines.push({ kind: "pages", pile: pile.id, from, pages: pile.pages.slice(from, from + across) });
  }
  if (table.dropped.length > 0) {
    lines.push({ kind: "tray", count: table.dropped.length });
    for (let from = 0; from < table.dropped.length; from += across)
      lines.push({ kind: "dropped", pages: table.dropped.slice(from, from + across) });
  }
  return lines;
}
