/** Chance that comes out the same every time from a seed. */
export interface Chance {
  /** From 0 up to but not 1. */
  next(): number;
  /** A whole number, both ends included. */
  whole(from: number, to: number): number;
  pick<T>(list: readonly T[]): T;
  /** True in this share of cases. */
  hits(share: number): boolean;
}

/** A small generator (mulberry32); good enough for samples, not for secrets. */
export function chance(seed: number): Chance {
  let state = seed >>> 0;
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  const whole = (from: number, to: number): number => from + Math.floor(next() * (to - from + 1));
  return {
    next,
    whole,
    pick: (list) => {
      const found = list[whole(0, list.length - 1)];
      if (found === undefined) throw new Error("nothing to pick from");
      return found;
    },
    hits: (share) => next() < share,
  };
}

/** A day a number of days after another; YYYY-MM-DD. */
export function dayAfter(day: string, days: number): string {
  const date = new Date(`${day}T12:00:00Z`);
  date.setUTCDate(date.getUTCDate() + days);
  return date.toISOString().slice(0, 10);
}

/** Pennies as an amount: 486250 is 4862.50. */
export function amountOf(pennies: number): string {
  const sign = pennies < 0 ? "-" : "";
  const p = Math.abs(pennies);
  return `${sign}${Math.floor(p / 100)}.${String(p % 100).padStart(2, "0")}`;
}
