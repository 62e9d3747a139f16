import { type SQL, sql } from "drizzle-orm";
import type { Verb } from "#core/timeline/line.ts";
import type { Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";

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
  const rows = lines.map((l) => ({
    verb: l.verb,
    who: l.who,
    company: l.company ?? null,
    document_id: l.documentId ?? null,
    record_id: l.recordId ?? null,
    arrival_id: l.arrivalId ?? null,
    details: l.details ?? {},
  }));
  // One parameter however many lines: a move plan writes thousands at a time.
  await tx.execute(sql`insert into timeline_line (at, verb, who, company, document_id, record_id, arrival_id, details)
    select ${now()}::timestamptz, x.* from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb)
      as x(verb text, who text, company text, document_id bigint, record_id bigint, arrival_id uuid, details jsonb)`);
}

/**
 * The statement that adds lines which the database puts together itself: for very many whose facts it has. `lines` selects verb, who, company,
 * document_id, record_id, arrival_id and details, in that order.
 */
export const linesOutOf = (
  lines: SQL,
): SQL => sql`insert into timeline_line (at, verb, who, company, document_id, record_id, arrival_id, details)
    select ${now()}::timestamptz, x.* from (${lines}) as x(verb, who, company, document_id, record_id, arrival_id, details)`;
