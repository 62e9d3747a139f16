import { addTurns, type Quarter } from "../pages/turn-box.ts";

/** A page on the bench: of which source (by its place in the list), which page of it, and how far it was turned here. */
export interface BenchPage {
  readonly source: number;
  readonly page: number;
  readonly turn: Quarter;
}
/** Pages that become one document. */
export interface Pile {
  readonly id: number;
  readonly pages: readonly BenchPage[];
}
/** All that lies on the bench. Every page of every source is in exactly one place: a pile, or among the dropped (promise 2). */
export interface BenchTable {
  readonly piles: readonly Pile[];
  readonly dropped: readonly BenchPage[];
  readonly nextId: number;
}

/** What a page is known by on the bench. */
export const pageKey = (page: { readonly source: number; readonly page: number }): string => `${page.source}:${page.page}`;

/** The bench as it begins: each source a pile, its pages in order. */
export function layOut(pageCounts: readonly number[]): BenchTable {
  return {
    piles: pageCounts.map((count, source) => ({
      id: source + 1,
      pages: Array.from({ length: count }, (_, i) => ({ source, page: i + 1, turn: 0 as const })),
    })),
    dropped: [],
    nextId: pageCounts.length + 1,
  };
}

/** Cuts a pile after some of its pages, counted from 1. Cuts at or past its ends do nothing. */
export function cutAfter(table: BenchTable, pileId: number, after: readonly number[]): BenchTable {
  const pile = table.piles.find((p) => p.id === pileId);
  if (!pile) return table;
  const ends = [...new Set(after)].filter((n) => n > 0 && n < pile.pages.length).sort((a, b) => a - b);
  if (ends.length === 0) return table;
  let nextId = table.nextId;
  const pieces = [0, ...ends].map((from, i): Pile => ({
    id: i === 0 ? pile.id : nextId++,
    pages: pile.pages.slice(from, ends[i] ?? pile.pages.length),
  }));
  return { ...table, piles: table.piles.flatMap((p) => (p === pile ? pieces : [p])), nextId };
}

/** A place in a source where it probably falls apart. */
interface CutPlace {
  readonly source: number;
  readonly afterPage: number;
}

/** The cut that lies between two pages that follow each other in a pile; pages of their source that are left out may lie between. Null when there is none. */
export function cutBetween<T extends CutPlace>(before: BenchPage | undefined, after: BenchPage | undefined, cuts: readonly T[]): T | null {
  if (!before || before.source !== after?.source) return null;
  return cuts.find((c) => c.source === before.source && c.afterPage >= before.page && c.afterPage < after.page) ?? null;
}

/** Makes every cut that lies between two pages as they lie now. */
export function cutAtPages(table: BenchTable, cuts: readonly CutPlace[]): BenchTable {
  return table.piles.reduce(
    (now, pile) =>
      cutAfter(
        now,
        pile.id,
        pile.pages.flatMap((p, i) => (cutBetween(p, pile.pages[i + 1], cuts) ? [i + 1] : [])),
      ),
    table,
  );
}

/** Puts a pile behind the one before it. The first has none before it. */
export function joinToBefore(table: BenchTable, pileId: number): BenchTable {
  const at = table.piles.findIndex((p) => p.id === pileId);
  const [before, pile] = [table.piles[at - 1], table.piles[at]];
  if (at < 1 || !before || !pile) return table;
  const joined: Pile = { id: before.id, pages: [...before.pages, ...pile.pages] };
  return { ...table, piles: [...table.piles.slice(0, at - 1), joined, ...table.piles.slice(at + 1)] };
}

/**
 * Takes pages from wherever they lie and puts them, in the order they lay in, into a pile before its page at `index` (0 is its front). `to` null
 * makes a pile of its own, at `index` among the piles. Piles that are left empty go.
 */
export function movePages(table: BenchTable, keys: ReadonlySet<string>, to: number | null, index: number): BenchTable {
  const all = [...table.piles.flatMap((p) => p.pages), ...table.dropped];
  const moved = all.filter((p) => keys.has(pageKey(p)));
  if (moved.length === 0 || (to !== null && !table.piles.some((p) => p.id === to))) return table;
  const rest = (pages: readonly BenchPage[]): readonly BenchPage[] => pages.filter((p) => !keys.has(pageKey(p)));
  const piles = table.piles.map((pile): Pile => {
    if (pile.id !== to) return { id: pile.id, pages: rest(pile.pages) };
    // The front is counted among all its pages, moved ones too: what lay before it stays before it.
    const [front, back] = [rest(pile.pages.slice(0, index)), rest(pile.pages.slice(index))];
    return { id: pile.id, pages: [...front, ...moved, ...back] };
  });
  const placed = to === null ? [...piles.slice(0, index), { id: table.nextId, pages: moved }, ...piles.slice(index)] : piles;
  return {
    piles: placed.filter((p) => p.pages.length > 0),
    dropped: rest(table.dropped),
    nextId: to === null ? table.nextId + 1 : table.nextId,
  };
}

/** Turns pages clockwise by a quarter or more. */
export function turnPages(table: BenchTable, keys: ReadonlySet<string>, by: Quarter): BenchTable {
  return {
    ...table,
    piles: table.piles.map((pile) =>
      pile.pages.some((p) => keys.has(pageKey(p)))
        ? { ...pile, pages: pile.pages.map((p) => (keys.has(pageKey(p)) ? { ...p, turn: addTurns(p.turn, by) } : p)) }
        : pile,
    ),
  };
}

/** Takes pages out of their piles; they stay in sight and can be brought back. */
export function dropPages(table: BenchTable, keys: ReadonlySet<string>): BenchTable {
  const dropped = table.piles.flatMap((p) => p.pages).filter((p) => keys.has(pageKey(p)));
  if (dropped.length === 0) return table;
  return {
    ...table,
    piles: table.piles
      .map((pile) => ({ ...pile, pages: pile.pages.filter((p) => !keys.has(pageKey(p))) }))
      .filter((pile) => pile.pages.length > 0),
    dropped: [...table.dropped, ...dropped],
  };
}

/** Brings dropped pages back: each behind the nearest page before it of its own source, else to the front of its source, else as a pile. */
export function bringBack(table: BenchTable, keys: ReadonlySet<string>): BenchTable {
  let now = table;
  for (const page of table.dropped.filter((p) => keys.has(pageKey(p))).sort((a, b) => a.page - b.page)) {
    const key = new Set([pageKey(page)]);
    const of = now.piles.flatMap((pile) => pile.pages.map((p, i) => ({ pile, p, i }))).filter((x) => x.p.source === page.source);
    const before = of.filter((x) => x.p.page < page.page).sort((a, b) => b.p.page - a.p.page)[0];
    const after = of.filter((x) => x.p.page > page.page).sort((a, b) => a.p.page - b.p.page)[0];
    if (before) now = movePages(now, key, before.pile.id, before.i + 1);
    else if (after) now = movePages(now, key, after.pile.id, after.i);
    else now = movePages(now, key, null, now.piles.length);
  }
  return now;
}

/** What was done, so that it can be undone and done again without end. */
export interface History<T> {
  readonly past: readonly T[];
  readonly now: T;
  readonly future: readonly T[];
}
export const begin = <T>(now: T): History<T> => ({ past: [], now, future: [] });
/** A step further; one that changed nothing is none. */
export const step = <T>(history: History<T>, next: T): History<T> =>
  next === history.now ? history : { past: [...history.past, history.now], now: next, future: [] };
export function undo<T>(history: History<T>): History<T> {
  const last = history.past.at(-1);
  return last === undefined ? history : { past: history.past.slice(0, -1), now: last, future: [history.now, ...history.future] };
}
export function redo<T>(history: History<T>): History<T> {
  const [next, ...future] = history.future;
  return next === undefined ? history : { past: [...history.past, history.now], now: next, future };
}

/** What is wrong with parts that are to be made of some sources: a page twice, one nowhere, one that is not there. Null when nothing is. */
export function wrongWithParts(
  pageCounts: readonly number[],
  parts: readonly { readonly pages: readonly { readonly source: number; readonly page: number }[] }[],
  dropped: readonly { readonly source: number; readonly page: number }[],
): string | null {
  const seen = new Set<string>();
  for (const page of [...parts.flatMap((p) => p.pages), ...dropped]) {
    const count = pageCounts[page.source];
    if (count === undefined || page.page < 1 || page.page > count) return `page ${page.page} is not there`;
    const key = pageKey(page);
    if (seen.has(key)) return `page ${page.page} is named twice`;
    seen.add(key);
  }
  if (parts.some((p) => p.pages.length === 0)) return "a part has no pages";
  const all = pageCounts.reduce((sum, n) => sum + n, 0);
  return seen.size === all ? null : `${all - seen.size} pages are named nowhere`;
}
