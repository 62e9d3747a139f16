import { readFile } from "node:fs/promises";
import type pg from "pg";

/** Whether every part runs with sizes that say nothing, only to show that it still runs (`--tiny`, part of bin/test). */
export const isTiny = process.env["AMBER_BENCH_TINY"] === "1";
/** A size of a measurement: the full one, or the tiny one. */
export const sized = (full: number, tiny: number): number => (isTiny ? tiny : full);

/** The value below which a share of the values lies. */
export function percentile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0;
}

/** A figure with three digits that matter: more would only be noise. */
export const short = (n: number): number => Number(n.toPrecision(3));

/** p50 and p95 in milliseconds of something done again and again; the first few, which warm up, are not counted. */
export async function timed(
  times: number,
  act: (turn: number) => Promise<unknown>,
): Promise<{ readonly p50: number; readonly p95: number }> {
  const warm = Math.max(3, Math.floor(times / 10));
  const taken: number[] = [];
  for (let turn = 0; turn < warm + times; turn++) {
    const began = performance.now();
    await act(turn);
    if (turn >= warm) taken.push(performance.now() - began);
  }
  return { p50: short(percentile(taken, 0.5)), p95: short(percentile(taken, 0.95)) };
}

/**
 * The same for several things done in turn, one after the other each time: where the machine is now faster, now slower, all of them meet the same of it.
 * @param warm Turns that are not counted.
 */
export async function timedInTurn(
  warm: number,
  times: number,
  acts: readonly ((turn: number) => Promise<unknown>)[],
): Promise<readonly { readonly p50: number; readonly p95: number }[]> {
  const taken: number[][] = acts.map(() => []);
  for (let turn = 0; turn < warm + times; turn++)
    for (const [i, act] of acts.entries()) {
      const began = performance.now();
      await act(turn);
      if (turn >= warm) taken[i]?.push(performance.now() - began);
    }
  return taken.map((one) => ({ p50: short(percentile(one, 0.5)), p95: short(percentile(one, 0.95)) }));
}

/** Seconds that other machines have taken from this one's processors since it began; what is measured meanwhile is slower by that and more. */
export async function stolenSeconds(): Promise<number> {
  const [line = ""] = (await readFile("/proc/stat", "utf8")).split("\n");
  // Of the line's counts, in hundredths of a second, the eighth (proc(5)).
  return Number(line.split(/\s+/)[8] ?? 0) / 100;
}

/** Seconds that something took. */
export async function seconds(act: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await act();
  return (performance.now() - began) / 1000;
}

/**
 * Until the worker has nothing to do: what it looks at would take the cores from what is measured. Records that were entered in the table and not by way of
 * the program are looked at by the upkeep, up to a minute later.
 */
export async function nothingWaits(client: pg.Client): Promise<void> {
  const waiting = async (): Promise<number> =>
    Number(
      (
        await client.query<{
          n: string;
        }>(`select (select count(*) from graphile_worker._private_jobs where run_at < now() + interval '5 seconds' and attempts < max_attempts)
          + (select count(*) from completeness_due) + (select count(*) from record where references_version < (select max(references_version) from record)) as n`)
      ).rows[0]?.n,
    );
  while ((await waiting()) > 0) await new Promise((r) => setTimeout(r, 1000));
}

/** Does works side by side, a few at a time. */
export async function sideBySide(works: readonly (() => Promise<unknown>)[], atOnce: number): Promise<void> {
  let next = 0;
  await Promise.all(
    Array.from({ length: atOnce }, async () => {
      for (let i = next++; i < works.length; i = next++) await works[i]?.();
    }),
  );
}

/** Prints one measurement as a line of JSON. */
export const print = (name: string, figures: Readonly<Record<string, unknown>>): void =>
  console.log(JSON.stringify({ bench: name, ...figures }));
