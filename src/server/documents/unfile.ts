import { and, eq, inArray, sql } from "drizzle-orm";
import { allowsDocument } from "#core/access/grants.ts";
import { type DocumentCode, parseSha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter } from "../access/filters.ts";
import { accessClass } from "../access/tables.ts";
import { arrival } from "../arrivals/tables.ts";
import { clip } from "../clips/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { lockPath } from "../filing-plan/lock-path.ts";
import { openRepository } from "../filing-plan/open-repository.ts";
import { lockSettledFolder } from "../filing-plan/lock-settled-folder.ts";
import { placement, pointer } from "../filing-plan/tables.ts";
import { enqueueCheck } from "../automatic-filing/enqueue-check.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { record } from "../records/tables.ts";
import { suggestAgain } from "../matching/suggest-again.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { ensureLanded } from "./local-file.ts";
import { document, documentVersion } from "./tables.ts";

/**
 * Takes a document off its records and back to Arrivals (the undo of filing). The file is taken back from the repository when
 * it is still ours; a file that somebody changed there stays. Its code and timeline stay for good. Only documents with one
 * version go back. Twice is once. First the wish is written down with a job, then it is carried out: a process that is killed
 * in between leaves a job that ends it the same.
 */
export async function unfile(actor: Actor, code: DocumentCode): Promise<Result<{ arrivalId: string }>> {
  const filter = await documentFilter(actor);
  const begun = await db().transaction(async (tx) => {
    const found = (
      await tx
        .select({ document, cls: accessClass })
        .from(document)
        .innerJoin(accessClass, eq(accessClass.id, document.aclId))
        .where(sql`${eq(document.code, code)} and ${filter}`)
        .for("update", { of: document })
    )[0];
    if (!found) return refuse("not-found");
    if (!allowsDocument(actor.grants, "file", found.cls)) return refuse("not-allowed");
    const id = found.document.id;
    if (found.document.unfiledAt) return ok({ id, arrivalId: await arrivalUnfiled(tx, id), done: true });
    const filed = (await tx.select({ id: arrival.id }).from(arrival).where(eq(arrival.documentId, id)).limit(1))[0];
    if (!filed || found.document.currentVersion > 1) return refuse("still-there", "it has several versions");
    const entered = (await tx.select().from(placement).where(eq(placement.documentId, id)).for("update"))[0];
    if (entered?.state === "moving" && entered.takenBackBy === null) return refuse("stale", "it is being moved");
    await tx.update(placement).set({ state: "moving", takenBackBy: actor.id, why: null }).where(eq(placement.documentId, id));
    await addJob(tx, "takeBack", { documentId: id }, { key: `takeBack:${id}` });
    return ok({ id, arrivalId: filed.id, done: false });
  });
  if (!begun.ok) return begun;
  if (!begun.value.done) await finishUnfiling(begun.value.id);
  return ok({ arrivalId: begun.value.arrivalId });
}

/** The second half of unfiling, run at once and again by the worker if that was cut off. Nothing happens to a document that is not on its way. */
export async function finishUnfiling(documentId: number): Promise<void> {
  await db().transaction(async (tx) => {
    const found = (await tx.select().from(document).where(eq(document.id, documentId)).for("update"))[0];
    const entered = (await tx.select().from(placement).where(eq(placement.documentId, documentId)))[0];
    if (!found || found.unfiledAt || entered?.takenBackBy == null) return;
    await enqueueCheck(tx, documentId);
    const at = await lockSettledFolder(tx, entered.folderId);
    if (!at) throw new Error("the location has no folder");
    const path = at.path === "" ? entered.name : `${at.path}/${entered.name}`;
    await lockPath(tx, at.connection, path);
    const who = entered.takenBackBy;
    const filed = (await tx.select({ id: arrival.id }).from(arrival).where(eq(arrival.documentId, documentId)).limit(1))[0];
    const version = (await tx.select().from(documentVersion).where(eq(documentVersion.documentId, documentId)))[0];
    if (!filed || !version) throw new Error("document without arrival");
    // From here on the landing store is the only place that has them.
    await ensureLanded(parseSha256(version.sha256));
    await (await openRepository(at.connection)).takeBack(path, parseSha256(version.sha256));
    // Its links and pointers elsewhere go too; the worker takes them away.
    await tx.update(pointer).set({ state: "unwanted" }).where(eq(pointer.documentId, documentId));
    await addJob(tx, "pointers", {}, { key: "pointers" });
    await tx.execute(
      sql`update finding set state = 'decided', decision = 'unfiled' where document_id = ${documentId} and state <> 'decided'`,
    );
    await tx.delete(placement).where(eq(placement.documentId, documentId));
    const taken = await tx.delete(clip).where(eq(clip.documentId, documentId)).returning({ recordId: clip.recordId });
    const recordIds = taken.map((c) => c.recordId);
    const documentCount = sql`${record.documentCount} - 1`;
    if (recordIds.length > 0) await tx.update(record).set({ documentCount }).where(inArray(record.id, recordIds));
    await tx.execute(sql`delete from beneath_document where document_id = ${documentId}`);
    await tx.execute(sql`delete from search_document where document_id = ${documentId}`);
    await tx.update(document).set({ unfiledAt: now() }).where(eq(document.id, documentId));
    await tx
      .update(arrival)
      .set({ state: "ready", documentId: null, endedAt: null, endedBy: null })
      .where(and(eq(arrival.id, filed.id), eq(arrival.state, "filed")));
    await suggestAgain(tx, filed.id);
    const about = { who, company: found.company, documentId };
    await writeLines(tx, [
      { ...about, verb: "unfiled", arrivalId: filed.id },
      ...recordIds.map((recordId) => ({ ...about, verb: "unclipped" as const, recordId, details: { title: found.title } })),
    ]);
  });
}

/** The arrival that an unfiled document went back to. */
async function arrivalUnfiled(tx: Tx, documentId: number): Promise<string> {
  const line = await tx.execute<{ arrival_id: string }>(
    sql`select arrival_id from timeline_line where document_id = ${documentId} and verb = 'unfiled' order by id desc limit 1`,
  );
  return line.rows[0]?.arrival_id ?? "";
}
