import { z } from "zod";
import { keySchema } from "../shared/key.ts";

/** Record types that see a clip though it is not theirs: on the records of its chain, above the clip's record and beneath it. */
export const reachSchema = z.array(keySchema).max(50);

/** What an administrator sets about reach. */
export const reachSettingsSchema = z.object({
  /** A clip that would show on more records than this is asked about first. */
  askAbove: z.number().int().min(1).max(100_000).default(100),
  /** By document type: the record types that see its clips unless somebody says otherwise. */
  types: z.record(keySchema, reachSchema).default({}),
});
export type ReachSettings = z.infer<typeof reachSettingsSchema>;

/** Reach where nobody has set anything: a clip shows on its own record only. */
export const startingReach: ReachSettings = { askAbove: 100, types: {} };

/**
 * The record types that see a clip of a document type on a record: those that were said, else those of the document type. In alphabetical order, each
 * once, never the record's own type: the other records of that type along a chain are somebody else's.
 */
export function decideReach(
  said: readonly string[] | undefined,
  settings: ReachSettings,
  documentType: string,
  recordType: string,
): readonly string[] {
  const wanted = said ?? settings.types[documentType] ?? [];
  return [...new Set(wanted)].filter((t) => t !== recordType).sort();
}

/** How many records of a type see a clip. */
export interface ReachCount {
  readonly type: string;
  readonly count: number;
}

/** Whether somebody has to agree before a clip shows on so many records. */
export function isWide(counts: readonly ReachCount[], settings: ReachSettings): boolean {
  return totalReach(counts) > settings.askAbove;
}

/** Records that see a clip besides its own. */
export function totalReach(counts: readonly ReachCount[]): number {
  return counts.reduce((sum, c) => sum + c.count, 0);
}

/** In words for people, such as "412 freight bookings and 3 claims"; the greatest number first. Empty for none. */
export function reachWords(counts: readonly ReachCount[], labelOf: (type: string, count: number) => string): string {
  const words = counts
    .filter((c) => c.count > 0)
    .toSorted((a, b) => b.count - a.count || a.type.localeCompare(b.type))
    .map((c) => `${c.count.toLocaleString("en")} ${labelOf(c.type, c.count)}`);
  const last = words.pop();
  if (last === undefined) return "";
  return words.length === 0 ? last : `${words.join(", ")} and ${last}`;
}
