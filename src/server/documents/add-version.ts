import { and, eq, inArray, sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { endingOf } from "#core/filing-plan/legal-name.ts";
import { type ArrivalId, documentCodeOf, parseDocumentCode } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { claimedByOther } from "../arrivals/claim.ts";
import { arrival } from "../arrivals/tables.ts";
import { clip } from "../clips/tables.ts";
import { arrivalFilter, documentFilter } from "../access/filters.ts";
import { db, type Tx } from "../db/connect.ts";
import { place as placeView, placement } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import type { Filed } from "./file-away.ts";
import { endingFor } from "./ending-for.ts";
import { content, document, documentVersion } from "./tables.ts";

type ArrivalRow = typeof arrival.$inferSelect;

/** What is read of a document that gets a version. */
const versionable = {
  id: document.id,
  code: document.code,
  title: document.title,
  company: document.company,
  currentVersion: document.currentVersion,
};

/** The document of a record that has this type and title already; held until the transaction ends. */
export async function findSameName(tx: Tx, recordId: number, documentType: string, title: string) {
  const rows = await tx
    .select(versionable)
    .from(document)
    .innerJoin(clip, eq(clip.documentId, document.id))
    .where(
      and(
        eq(clip.recordId, recordId),
        eq(document.documentType, documentType),
        sql`lower(${document.title}) = lower(${title})`,
        sql`${document.unfiledAt} is null`,
      ),
    )
    .for("update");
  return rows[0] ?? null;
}

/** Files an arrival as a new version of a document. Refuses name-taken when it is another kind of file. */
export async function addVersion(
  tx: Tx,
  actor: Actor,
  row: ArrivalRow,
  same: { id: number; code: string; title: string; company: string; currentVersion: number },
  ending: string,
): Promise<Result<Filed>> {
  await tx.select().from(placement).where(eq(placement.documentId, same.id)).for("update");
  const place = (await tx.select().from(placeView).where(eq(placeView.documentId, same.id)))[0];
  if (!place) throw new Error("the document has no location");
  // Refused before anything is written: a refusal ends the transaction well, so what stood before it would be kept.
  if (endingOf(place.path) !== ending)
    return refuse("name-taken", "the new version is another kind of file; file it as a separate document");
  const at = now();
  const known = (
    await tx
      .select()
      .from(documentVersion)
      .where(and(eq(documentVersion.documentId, same.id), eq(documentVersion.sha256, row.sha256)))
  )[0];
  const number = known?.number ?? same.currentVersion + 1;
  if (!known)
    await tx
      .insert(documentVersion)
      .values({ documentId: same.id, number, sha256: row.sha256, fileName: row.fileName, madeAt: at, madeBy: actor.id });
  await tx.update(document).set({ currentVersion: number, changedAt: at }).where(eq(document.id, same.id));
  await tx.update(placement).set({ state: "waiting", sha256: null, checkedAt: null }).where(eq(placement.documentId, same.id));
  await endArrival(tx, row, actor, same.id);
  await writeLines(tx, [
    {
      verb: "versionAdded",
      who: actor.id,
      company: same.company,
      documentId: same.id,
      arrivalId: row.id,
      details: { version: String(number) },
    },
  ]);
  await addJob(tx, "place", { documentId: same.id }, { key: `place:${same.id}` });
  await addJob(tx, "index", { documentId: same.id }, { key: `index:${same.id}`, priority: 1 });
  const code = documentCodeOf(same.id);
  return ok({
    code,
    title: same.title,
    path: place.path,
    location: { connection: place.connection, path: place.path, state: "waiting", sha256: null, verifiedAt: null },
  });
}

/** Ends an arrival that was filed. */
export async function endArrival(tx: Tx, row: ArrivalRow, actor: Actor, documentId: number): Promise<void> {
  const done = await tx
    .update(arrival)
    .set({ state: "filed", documentId, endedAt: now(), endedBy: actor.id })
    .where(and(eq(arrival.id, row.id), inArray(arrival.state, [...openStates])))
    .returning({ id: arrival.id });
  if (!done[0]) throw new Error("arrival changed while locked");
}

/**
 * Files an arrival as the next version of a document that the person may file to. Twice is once. Refuses not-found, stale (the arrival no longer
 * waits), name-taken (another kind of file).
 */
export async function fileAsVersion(actor: Actor, id: ArrivalId, codeText: string): Promise<Result<Filed>> {
  const code = parseDocumentCode(codeText);
  if (!code) return refuse("not-found");
  const [seen, covered] = [await arrivalFilter(actor), await documentFilter(actor, "file")];
  return db().transaction(async (tx) => {
    const row = (
      await tx
        .select()
        .from(arrival)
        .where(sql`${eq(arrival.id, id)} and ${seen}`)
        .for("update")
    )[0];
    const found = (
      await tx
        .select(versionable)
        .from(document)
        .where(sql`${eq(document.code, code)} and ${document.unfiledAt} is null and ${covered}`)
        .for("update")
    )[0];
    if (!row || !found) return refuse("not-found");
    const known = (await tx.select({ kind: content.kind }).from(content).where(eq(content.sha256, row.sha256)))[0]?.kind;
    if (row.state === "filed" && row.documentId === found.id && row.endedBy === actor.id) {
      const at = (await tx.select().from(placeView).where(eq(placeView.documentId, found.id)))[0];
      if (!at) return refuse("stale");
      const { connection, path, state, sha256 } = at;
      const placementNow = { connection, path, state, sha256, verifiedAt: at.checkedAt?.toISOString() ?? null };
      return ok({ code: documentCodeOf(found.id), title: found.title, path, location: placementNow });
    }
    if (!(openStates as readonly string[]).includes(row.state)) return refuse("stale");
    const other = await claimedByOther(tx, actor, row);
    if (other !== null) return refuse("claimed", other);
    return addVersion(tx, actor, row, found, endingFor(known ?? null, row.fileName));
  });
}
