import { and, eq, isNull, sql } from "drizzle-orm";
import { CHECK_BELOW, propertiesFromReadings } from "#core/documents/fill-from-readings.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { parseDocumentCode } from "#core/shared/brand.ts";
import { arrival } from "../arrivals/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import { programWithRightsOf } from "../people/program-actor.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { loadPaper } from "../matching/load-paper.ts";
import { readAndMatch } from "../matching/suggest-for.ts";
import { changeDocument } from "./change-document.ts";
import { document } from "./tables.ts";

/** Queues `fillAfterReading` for the documents that were filed with a content before it was read. In the caller's transaction. */
export async function wantFillAfterReading(tx: Tx, sha256: string): Promise<void> {
  const filed = await tx
    .select({ id: arrival.documentId })
    .from(arrival)
    .where(and(eq(arrival.sha256, sha256), eq(arrival.state, "filed"), isNull(arrival.readyAt)));
  for (const { id } of filed)
    if (id !== null) await addJob(tx, "fillProperties", { documentId: id }, { key: `fillProperties:${id}`, priority: 1, afterSeconds: 1 });
}

/**
 * Fills the empty properties of a document that was filed before it was read, from what its pages say for certain. Its title and location follow. A document
 * that somebody has changed since is left alone. Safe to repeat. Answers whether anything was filled.
 */
export async function fillAfterReading(documentId: number): Promise<boolean> {
  const found = (
    await db()
      .select({ document, arrivalId: arrival.id, queue: arrival.queue })
      .from(document)
      .innerJoin(arrival, eq(arrival.documentId, document.id))
      .where(
        and(
          eq(document.id, documentId),
          isNull(document.unfiledAt),
          eq(document.currentVersion, 1),
          sql`${document.changedAt} = ${document.filedAt}`,
          // Every page has its words by now.
          sql`not exists (select from content_page p where p.sha256 = ${arrival.sha256} and p.words_from is null)`,
        ),
      )
  )[0];
  const type = found ? await loadDocumentType(found.document.documentType) : null;
  const actor = found ? await programWithRightsOf(found.document.filedBy, found.queue) : null;
  const paper = found ? await loadPaper(db(), found.arrivalId) : null;
  const code = parseDocumentCode(found?.document.code ?? "");
  if (!found || !type || !actor || !paper || !code) return false;
  const { read } = await readAndMatch(paper);
  const was = found.document.properties as FieldValues;
  const said = propertiesFromReadings(
    type.properties,
    read.readings.filter((r) => r.certainty >= CHECK_BELOW),
  );
  const fresh = Object.entries(said).filter(([key]) => (was[key] ?? null) === null);
  if (fresh.length === 0) return false;
  const changed = await changeDocument(actor, code, { properties: { ...was, ...Object.fromEntries(fresh) }, dryRun: false });
  return changed.ok;
}
