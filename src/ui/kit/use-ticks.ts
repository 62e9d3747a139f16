"use client";
import { useState } from "react";

/** Rows of a list that are chosen: one by one, and with Shift from the last one to this. */
export function useTicks<T>(rows: readonly T[], idOf: (row: T) => string) {
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [last, setLast] = useState(0);
  return {
    ticked,
    chosen: rows.filter((r) => ticked.has(idOf(r))),
    tick(at: number, range: boolean): void {
      setTicked((now) => {
        const next = new Set(now);
        const row = rows[at];
        if (range) for (const r of rows.slice(Math.min(at, last), Math.max(at, last) + 1)) next.add(idOf(r));
        else if (row && !next.delete(idOf(row))) next.add(idOf(row));
        return next;
      });
      setLast(at);
    },
    tickAll: (all: boolean): void => setTicked(new Set(all ? rows.map(idOf) : [])),
  };
}
