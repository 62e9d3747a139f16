import { shiftDay } from "../shared/parse-day.ts";
import type { StandingItem } from "./checklist-state.ts";

/** A record's checklist in short, as it is kept: which items apply, are missing, received, expired, waived, each a set of bits. */
export interface Completeness {
  readonly applies: bigint;
  /** Outstanding or expired. */
  readonly missing: bigint;
  readonly received: bigint;
  readonly expired: bigint;
  readonly waived: bigint;
  /** First day that something missing is due; null when nothing is. */
  readonly dueOn: string | null;
  /** First day after which something settled is so no longer. */
  readonly expiresOn: string | null;
  /** The day on which something changes though nobody touches it; null when nothing does. */
  readonly changesOn: string | null;
}

/** A set of bits with one in it. */
export const bitOf = (bit: number): bigint => 1n << BigInt(bit);

/** Sums up how the items of a record stand on a day. */
export function completenessOf(items: readonly StandingItem[], today: string): Completeness {
  let [applies, missing, received, expired, waived] = [0n, 0n, 0n, 0n, 0n];
  const [due, lapses, changes]: string[][] = [[], [], []];
  for (const item of items) {
    const bit = bitOf(item.bit);
    applies |= bit;
    if (item.state === "outstanding" || item.state === "expired") {
      missing |= bit;
      if (item.dueOn !== null) due?.push(item.dueOn);
      if (item.state === "expired") {
        expired |= bit;
        // What expired has been due since.
        if (item.dueOn === null && item.expiresOn !== null) due?.push(item.expiresOn);
      }
    }
    if (item.state === "received") received |= bit;
    if (item.state === "waived") waived |= bit;
    if (item.state === "complete" && item.expiresOn !== null) lapses?.push(item.expiresOn);
    if (item.state !== "waived")
      for (const paper of item.papers) if (paper.endsOn !== null && paper.endsOn >= today) changes?.push(shiftDay(paper.endsOn, 1));
  }
  const first = (days: readonly string[] | undefined): string | null => [...(days ?? [])].sort()[0] ?? null;
  return { applies, missing, received, expired, waived, dueOn: first(due), expiresOn: first(lapses), changesOn: first(changes) };
}

/** How many items there are in a set. */
export function countBits(bits: bigint): number {
  let count = 0;
  for (let rest = bits; rest > 0n; rest &= rest - 1n) count++;
  return count;
}

/** "4 of 6": what is settled or waived, of all that apply. Only the bits that a person may see count. */
export function countsOf(
  kept: Pick<Completeness, "applies" | "missing" | "received">,
  visible: bigint,
): { readonly done: number; readonly of: number } {
  const applies = kept.applies & visible;
  return { done: countBits(applies & ~(kept.missing | kept.received)), of: countBits(applies) };
}
