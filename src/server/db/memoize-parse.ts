import type { z } from "zod";

/** Texts remembered for one schema; all are forgotten together beyond it. */
const KEPT_MAX = 1000;

/**
 * Parses what set-up keeps as JSON, each text once: types and rules are asked for with every page and change once a month. What comes back is shared, and
 * must not be changed. Asked for as text (`definition::text`), so that what was changed is another text, in every process at once.
 */
export function memoizeParse<S extends z.ZodType>(schema: S): (text: string) => z.output<S> {
  const kept = new Map<string, z.output<S>>();
  return (text) => {
    const known = kept.get(text);
    if (known !== undefined) return known;
    const parsed = schema.parse(JSON.parse(text));
    if (kept.size >= KEPT_MAX) kept.clear();
    kept.set(text, parsed);
    return parsed;
  };
}
