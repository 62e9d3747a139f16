import { AsyncLocalStorage } from "node:async_hooks";

/** Where the present moment comes from. Real time, unless something runs inside `atTime` (the demo fill, tests). */
const fixed = new AsyncLocalStorage<() => Date>();

/** The present moment. */
export function now(): Date {
  return fixed.getStore()?.() ?? new Date();
}

/** Runs something as if it were another time. */
export function atTime<T>(time: () => Date, run: () => Promise<T>): Promise<T> {
  return fixed.run(time, run);
}

/** Today's calendar day, YYYY-MM-DD, in the zone the process runs in. */
export function today(): string {
  const d = now();
  return `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, "0")}-${String(d.getDate()).padStart(2, "0")}`;
}
