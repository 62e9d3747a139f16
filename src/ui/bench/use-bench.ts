import { useEffect, useMemo, useState } from "react";
import { acceptCuts, pileOfCode } from "#core/bench/accept-cuts.ts";
import {
  begin,
  type BenchPage,
  type BenchTable,
  bringBack,
  cutAfter,
  dropPages,
  type History,
  joinToBefore,
  layOut,
  movePages,
  pageKey,
  redo,
  step,
  turnPages,
  undo,
} from "#core/bench/bench-table.ts";
import { addTurns, type Quarter } from "#core/pages/turn-box.ts";
import type { BenchAnswer } from "#server/bench/load-bench.ts";

/** The small filing sheet of a pile. */
export interface PileSheet {
  readonly record: { readonly company: string; readonly type: string; readonly key: string; readonly title: string } | null;
  readonly documentType: string | null;
  readonly number: string;
  /** Make it the next version of the document it came from. */
  readonly asVersion: boolean;
  /** A person or a code on its pages said it: the program's proposal holds no longer. */
  readonly isSettled: boolean;
}
export const emptySheet: PileSheet = { record: null, documentType: null, number: "", asVersion: false, isSettled: false };

interface Kept {
  readonly table: BenchTable;
  readonly sheets: Readonly<Record<number, PileSheet>>;
}

/** The bench as it begins: a page that lies on its side or upside down is turned upright at once. */
export function firstTable(answer: BenchAnswer): BenchTable {
  let table = layOut(answer.sources.map((s) => s.pages.length));
  for (const by of [90, 180, 270] as const) {
    const keys = answer.sources.flatMap((s, source) =>
      s.pages.flatMap((p, i) => (p.turn === by ? [pageKey({ source, page: i + 1 })] : [])),
    );
    if (keys.length > 0) table = turnPages(table, new Set(keys), by);
  }
  // The backs that nobody wrote on are left out of a scan; they lie in sight and can be brought back.
  const blanks = answer.sources.flatMap((s, source) =>
    s.isScan ? s.pages.flatMap((p, i) => (p.blank ? [pageKey({ source, page: i + 1 })] : [])) : [],
  );
  const kept = dropPages(table, new Set(blanks));
  return kept.piles.length === table.piles.length ? kept : table;
}

/** All that can be done on the bench, and what is chosen on it. What was done is kept in this window until it is carried out. */
export function useBench(answer: BenchAnswer, name: string) {
  const [history, setHistory] = useState<History<BenchTable>>(() => begin(keptTable(name, answer) ?? firstTable(answer)));
  const [sheets, setSheets] = useState<Readonly<Record<number, PileSheet>>>(() => kept(name)?.sheets ?? {});
  const [focus, setFocus] = useState<string | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const table = history.now;
  useEffect(() => {
    sessionStorage.setItem(`bench ${name}`, JSON.stringify({ table, sheets } satisfies Kept));
  }, [name, table, sheets]);
  const order = useMemo(() => table.piles.flatMap((p) => p.pages.map(pageKey)), [table]);
  const focusKey =
    focus !== null && (order.includes(focus) || table.dropped.some((p) => pageKey(p) === focus)) ? focus : (order[0] ?? null);
  const at = order.indexOf(focusKey ?? "");
  const picked = (): ReadonlySet<string> => (chosen.size > 0 ? chosen : new Set(focusKey === null ? [] : [focusKey]));
  const change = (act: (now: BenchTable) => BenchTable): void => setHistory((h) => step(h, act(h.now)));
  const pileWith = (key: string | null): { readonly id: number; readonly index: number; readonly count: number } | null => {
    for (const pile of table.piles) {
      const index = pile.pages.findIndex((p) => pageKey(p) === key);
      if (index !== -1) return { id: pile.id, index, count: pile.pages.length };
    }
    return null;
  };
  return {
    table,
    sheets,
    focusKey,
    focusPage: focusPage(table, focusKey),
    chosen,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    undo: () => setHistory(undo),
    redo: () => setHistory(redo),
    /** Goes to a page; with `range` everything up to it is chosen, with `add` it is chosen besides. */
    point: (key: string, how: { readonly range?: boolean; readonly add?: boolean } = {}): void => {
      if (how.range === true && focusKey !== null) {
        const [a, b] = [order.indexOf(focusKey), order.indexOf(key)].sort((x, y) => x - y);
        setChosen(new Set(order.slice(a, (b ?? 0) + 1)));
        return;
      }
      if (how.add === true) {
        setChosen((now) => {
          const next = new Set(now.size === 0 && focusKey !== null ? [focusKey] : now);
          if (!next.delete(key)) next.add(key);
          return next;
        });
      } else setChosen(new Set());
      setFocus(key);
    },
    clear: () => setChosen(new Set()),
    go: (by: number): void => {
      setChosen(new Set());
      setFocus(order[Math.max(0, Math.min(order.length - 1, at + by))] ?? null);
    },
    goPile: (by: number): void => {
      const pile = pileWith(focusKey);
      const index = table.piles.findIndex((p) => p.id === pile?.id);
      const next = table.piles[Math.max(0, Math.min(table.piles.length - 1, index + by))];
      setChosen(new Set());
      setFocus(next?.pages[0] ? pageKey(next.pages[0]) : null);
    },
    cutBefore: (key: string | null = focusKey): void => {
      const pile = pileWith(key);
      if (pile) change((now) => cutAfter(now, pile.id, [pile.index]));
    },
    join: (pileId: number | null = pileWith(focusKey)?.id ?? null): void => {
      if (pileId !== null) change((now) => joinToBefore(now, pileId));
    },
    turn: (by: Quarter = 90): void => change((now) => turnPages(now, picked(), by)),
    drop: (): void => {
      const keys = picked();
      const next = order.find((k, i) => i > at && !keys.has(k)) ?? order.findLast((k, i) => i < at && !keys.has(k));
      change((now) => dropPages(now, keys));
      setChosen(new Set());
      setFocus(next ?? null);
    },
    dropThese: (keys: ReadonlySet<string>): void => change((now) => dropPages(now, keys)),
    bringBack: (keys: ReadonlySet<string>): void => change((now) => bringBack(now, keys)),
    /** Puts pages into a pile before its page at `index`; `to` null makes a new pile there. */
    move: (keys: ReadonlySet<string>, to: number | null, index: number): void => change((now) => movePages(now, keys, to, index)),
    /** Moves what is chosen one place on or back within its pile, or over its edge into the next one. */
    nudge: (by: 1 | -1): void => {
      const pile = pileWith(focusKey);
      if (!pile) return;
      const keys = picked();
      const index = table.piles.findIndex((p) => p.id === pile.id);
      const size = table.piles[index]?.pages.filter((p) => keys.has(pageKey(p))).length ?? 1;
      const beyond = by === 1 ? pile.index + size >= pile.count : pile.index === 0;
      const other = table.piles[index + by];
      if (beyond && other) change((now) => movePages(now, keys, other.id, by === 1 ? 0 : other.pages.length));
      else if (!beyond) change((now) => movePages(now, keys, pile.id, by === 1 ? pile.index + size + 1 : pile.index - 1));
    },
    ownPile: (): void => {
      const pile = pileWith(focusKey);
      const index = table.piles.findIndex((p) => p.id === pile?.id);
      change((now) => movePages(now, picked(), null, index + 1));
      setChosen(new Set());
    },
    /** Makes all proposed cuts, leaves out the sheets that are only there to divide, and fills in what their codes say. */
    accept: (from: BenchAnswer): void => {
      const next = acceptCuts(table, from.cuts, from.codes);
      setHistory((h) => step(h, next));
      const filled: Record<number, PileSheet> = { ...sheets };
      for (const code of from.codes) {
        const pile = code.record ? pileOfCode(next, code, from.codes) : null;
        if (pile !== null)
          filled[pile] = { ...emptySheet, ...filled[pile], record: code.record, documentType: code.documentType, isSettled: true };
      }
      setSheets(filled);
    },
    setSheet: (pile: number, to: PileSheet): void => setSheets((now) => ({ ...now, [pile]: { ...to, isSettled: true } })),
    begunAnew: (): void => {
      setHistory(begin(firstTable(answer)));
      setSheets({});
      setChosen(new Set());
    },
  };
}
export type Bench = ReturnType<typeof useBench>;

/** Forgets what was done with some sources. */
export const forgetBench = (name: string): void => sessionStorage.removeItem(`bench ${name}`);

function focusPage(table: BenchTable, key: string | null): BenchPage | null {
  return [...table.piles.flatMap((p) => p.pages), ...table.dropped].find((p) => pageKey(p) === key) ?? null;
}

function kept(name: string): Kept | null {
  try {
    const value: unknown = JSON.parse(sessionStorage.getItem(`bench ${name}`) ?? "null");
    return typeof value === "object" && value !== null && "table" in value && "sheets" in value ? (value as Kept) : null;
  } catch {
    return null;
  }
}

/** What was done before, if it still is about the same pages. */
function keptTable(name: string, answer: BenchAnswer): BenchTable | null {
  const table = kept(name)?.table;
  if (!table) return null;
  const pages = [...table.piles.flatMap((p) => p.pages), ...table.dropped].map((p) => ({ ...p, turn: addTurns(p.turn, 0) }));
  const all = answer.sources.flatMap((s, source) => s.pages.map((_, i) => pageKey({ source, page: i + 1 })));
  return pages.length === all.length &&
    new Set(pages.map(pageKey)).size === all.length &&
    pages.every((p) => p.page >= 1 && p.page <= (answer.sources[p.source]?.pages.length ?? 0))
    ? table
    : null;
}
