import { sql } from "drizzle-orm";
import { keptInMemory } from "../settings/kept.ts";
import { ask } from "./ask.ts";
import { askOnce } from "./connect.ts";

/** Which state set-up is in: a number that grows with each change of types, checklists, sections and folder rules, seen when the change is committed. */
const setUpVersion = (): Promise<number> =>
  askOnce("set-up", async () => (await ask<{ version: number }>(sql`select version from set_up_version`))[0]?.version ?? 0);

/**
 * A load of what set-up says whose answer is kept until set-up changes, in whatever process. What comes back is shared, and must not be changed. Not for
 * transactions, which may have changed set-up themselves: they load.
 */
export function keptBySetUp<T>(load: () => Promise<T>): () => Promise<T> {
  let kept: { readonly version: number; readonly value: Promise<T> } | null = null;
  keptInMemory(() => (kept = null));
  return async () => {
    const version = await setUpVersion();
    if (kept?.version === version) return kept.value;
    // The version was asked first: what is loaded now is of that version or a later one, never of an earlier one.
    const value = load();
    const mine = { version, value };
    kept = mine;
    value.catch(() => {
      if (kept === mine) kept = null;
    });
    return value;
  };
}
