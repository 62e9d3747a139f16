import { sql } from "drizzle-orm";
import { keptInMemory } from "../settings/kept.ts";
import { queryPrepared } from "./query-prepared.ts";
import { shareInFlight } from "./connect.ts";

/** What decides whether something kept in memory still holds. */
interface Standing {
  /** Grows with each change of types, checklists, sections and folder rules; seen when the change is committed. */
  readonly version: number;
  /** How many access classes there are. They are never changed or removed, so this tells of new ones, in whatever order they were committed. */
  readonly classes: number;
}

/** How things stand, as one small question: nearly every page asks both. */
export const whatStands = (): Promise<Standing> =>
  shareInFlight("what stands", async () => {
    const rows = await queryPrepared<Standing>(
      sql`select coalesce((select version from set_up_version), 0) as version, (select count(*) from access_class) as classes`,
    );
    return rows[0] ?? { version: 0, classes: 0 };
  });

/**
 * A load of what set-up says whose answer is kept until set-up changes, in whatever process. What comes back is shared, and must not be changed. Not for
 * transactions, which may have changed set-up themselves: they load.
 */
export function keptBySetUp<T>(load: () => Promise<T>): () => Promise<T> {
  let kept: { readonly version: number; readonly value: Promise<T> } | null = null;
  keptInMemory(() => (kept = null));
  return async () => {
    const { version } = await whatStands();
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
