import { eq, sql } from "drizzle-orm";
import { type Decided, differencesOf } from "#core/automatic-filing/automatic-filing-rule.ts";
import { parseArrivalId } from "#core/shared/brand.ts";
import { db } from "../db/connect.ts";
import { loadPerson } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { PROGRAM } from "../timeline/write-lines.ts";
import { decideFor } from "./decide-for.ts";
import { switchOffIfBelow } from "./measure.ts";
import { automaticFilingCase } from "./tables.ts";

interface DocumentNow extends Record<string, unknown> {
  readonly arrival_id: string;
  readonly document_type: string;
  readonly properties: Record<string, unknown>;
  readonly filed_by: string;
  readonly unfiled_at: Date | null;
  readonly ended_by: string | null;
  readonly clips: readonly Decided["record"][];
}

/**
 * Lays what the program had decided for a document beside what stands now, and keeps what came of it: that is what automatic filing is measured by. A document
 * that the program never decided on is decided on now, from what was found in it. Safe to repeat.
 */
export async function checkDocument(documentId: number): Promise<void> {
  const rows = await db().execute<DocumentNow>(sql`
    select a.id as arrival_id, d.document_type, d.properties, d.filed_by, d.unfiled_at, a.ended_by,
      coalesce((select json_agg(json_build_object('company', r.company, 'type', r.type, 'key', r.key) order by c.position) from clip c join record r on r.id = c.record_id where c.document_id = d.id), '[]') as clips
    from document d join arrival a on a.document_id = d.id or a.id in (select h.arrival_id from hands_free_paper h where h.document_id = d.id)
    where d.id = ${documentId} order by a.number limit 1`);
  const found = rows.rows[0];
  const id = found ? parseArrivalId(found.arrival_id) : null;
  if (!found || !id) return;
  const known = (await db().select().from(automaticFilingCase).where(eq(automaticFilingCase.arrivalId, id)))[0];
  if (known?.state === "undone") return;
  if (!known) {
    // What the program filed by a barcode says nothing about how it reads.
    const person = found.unfiled_at === null && found.filed_by !== PROGRAM ? await loadPerson(found.filed_by) : null;
    const decision = person ? await decideFor(person, id) : null;
    if (!decision) return;
    await db()
      .insert(automaticFilingCase)
      .values({
        arrivalId: id,
        documentId,
        queue: decision.queue,
        documentType: decision.documentType,
        how: "history",
        state: "checked",
        wouldFile: decision.why === null,
        why: decision.why,
        decided: decision.decided,
        differences: decision.decided ? differences(decision.decided, found) : null,
        at: now(),
        checkedAt: now(),
      })
      .onConflictDoNothing();
    return;
  }
  const decided = known.decided as Decided | null;
  if (!decided) return;
  const differs = found.unfiled_at !== null ? ["takenBack"] : differences(decided, found);
  if (known.how === "filed") {
    if (differs.length === 0 && known.state === "filed") {
      await db().update(automaticFilingCase).set({ documentId }).where(eq(automaticFilingCase.arrivalId, id));
      return;
    }
    // Once it was wrong it stays so: what a person put right is not the program's doing.
    await db()
      .update(automaticFilingCase)
      .set({
        state: "corrected",
        documentId,
        differences: differs.length > 0 ? differs : known.differences,
        checkedAt: known.checkedAt ?? now(),
      })
      .where(eq(automaticFilingCase.arrivalId, id));
  } else if (found.unfiled_at !== null) {
    // It waits again; whoever files it decides again.
    await db()
      .update(automaticFilingCase)
      .set({ state: "waiting", differences: null, checkedAt: null })
      .where(eq(automaticFilingCase.arrivalId, id));
  } else
    await db()
      .update(automaticFilingCase)
      .set({ state: "checked", documentId, differences: differs, checkedAt: known.checkedAt ?? now() })
      .where(eq(automaticFilingCase.arrivalId, id));
  await switchOffIfBelow(known.queue, known.documentType);
}

const differences = (decided: Decided, found: DocumentNow): readonly string[] =>
  differencesOf(decided, {
    documentType: found.document_type,
    record: found.clips[0] ?? { company: "", type: "", key: "" },
    clips: found.clips,
    properties: found.properties,
  });
