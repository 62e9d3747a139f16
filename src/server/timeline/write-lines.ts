import type { Verb } from "#core/timeline/line.ts";
import type { Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { timelineLine } from "./tables.ts";

/** A line to be written. It is found from every thing it names. */
export interface NewLine {
  readonly verb: Verb;
  /** Person id; PROGRAM when nobody in particular did it. */
  readonly who: string;
  readonly company?: string | null;
  readonly documentId?: number | null;
  readonly recordId?: number | null;
  readonly arrivalId?: string | null;
  /** Facts for the words of the verb; texts only. */
  readonly details?: Readonly<Record<string, string>>;
}

/** Who did what the program did by itself. */
export const PROGRAM = "amber-clip";

/** Adds lines to the timeline in the caller's transaction. */
export async function writeLines(tx: Tx, lines: readonly NewLine[]): Promise<void> {
  if (lines.length === 0) return;
  const at = now();
  await tx.insert(timelineLine).values(
    lines.map((l) => ({
      at,
      verb: l.verb,
      who: l.who,
      company: l.company ?? null,
      documentId: l.documentId ?? null,
      recordId: l.recordId ?? null,
      arrivalId: l.arrivalId ?? null,
      details: l.details ?? {},
    })),
  );
}
