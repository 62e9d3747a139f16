import { and, eq, sql } from "drizzle-orm";
import { type CheckedPaper, COUNTED, type Expected, expectedOf } from "#core/automatic-filing/automatic-filing-rule.ts";
import { precisionBound } from "#core/automatic-filing/precision-bound.ts";
import { db } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { automaticFiling } from "./tables.ts";

/** What is to be expected of one queue and type, from the latest documents that people decided on. */
export async function loadExpected(queue: string, documentType: string): Promise<Expected> {
  const rows = await db().execute<{ would_file: boolean; is_right: boolean | null }>(sql`
    select would_file, case when would_file then jsonb_array_length(coalesce(differences, '[]'::jsonb)) = 0 end as is_right
    from hands_free_paper where queue = ${queue} and document_type = ${documentType} and state in ('checked', 'corrected')
    order by checked_at desc limit ${COUNTED}`);
  const papers = rows.rows.map((r): CheckedPaper => ({ wouldFile: r.would_file, isRight: r.is_right }));
  return expectedOf(papers, precisionBound);
}

/** Why it switched itself off, as it is kept and shown. */
export interface OffWhy {
  readonly bound: number;
  readonly asked: number;
  readonly wrong: number;
  readonly of: number;
  readonly at: string;
}

/** switches automatic filing off where its bound has fallen below what was asked, and leaves word for the administrators. Answers whether it did. */
export async function switchOffIfBelow(queue: string, documentType: string): Promise<boolean> {
  const mine = and(eq(automaticFiling.queue, queue), eq(automaticFiling.documentType, documentType));
  const rule = (await db().select().from(automaticFiling).where(mine))[0];
  if (!rule?.isOn) return false;
  const expected = await loadExpected(queue, documentType);
  // What is kept as a four-byte number is compared as one.
  if (expected.bound >= Math.fround(rule.asked) - 1e-6) return false;
  const why: OffWhy = {
    bound: expected.bound,
    asked: rule.asked,
    wrong: expected.wouldFile - expected.right,
    of: expected.wouldFile,
    at: now().toISOString(),
  };
  return db().transaction(async (tx) => {
    const off = await tx
      .update(automaticFiling)
      .set({ isOn: false, offWhy: why, changedAt: now() })
      .where(and(mine, eq(automaticFiling.isOn, true)))
      .returning({ queue: automaticFiling.queue });
    if (off.length > 0)
      await writeLines(tx, [
        { verb: "handsFreeOff", who: PROGRAM, details: { queue, documentType, bound: `${(expected.bound * 100).toFixed(1)} %` } },
      ]);
    return off.length > 0;
  });
}
