import { and, eq, inArray, sql } from "drizzle-orm";
import { endingOf, foldName, numberedName, numberOf, withoutNumber } from "#core/filing-plan/legal-name.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { db, type Tx } from "../db/connect.ts";
import { localFile } from "../documents/local-file.ts";
import { document, documentVersion } from "../documents/tables.ts";
import { AppError } from "../ports/app-error.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import { systemCode } from "../ports/system-code.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { lockPath } from "./lock-path.ts";
import { limitsOf, openRepository } from "./open-repository.ts";
import { provePut } from "./prove-put.ts";
import { namesTaken } from "./settle-place.ts";
import { lockSettledFolder } from "./lock-settled-folder.ts";
import { placement } from "./tables.ts";

/** Other people's files under our names that are stepped around in one go. */
const STEPS_MAX = 50;

/**
 * Carries a waiting placement out: the file is put, read back and hashed, and only then the placement is *placed* with its proof
 * (promise 3). A file of somebody else under the name is never replaced: ours gets the next free name. While the repository is away the
 * placement goes on waiting and says so. Safe to run twice.
 */
export async function placeDocument(documentId: number): Promise<void> {
  try {
    for (let step = 0; step < STEPS_MAX; step++) {
      if ((await db().transaction((tx) => tryPlace(tx, documentId))) !== "settled") continue;
      // The folder holds one more than when it was last looked through. After the transaction: within it, two that place in one folder would wait for each other.
      await db().execute(
        sql`update folder set digest = null where digest is not null and id = (select folder_id from placement where document_id = ${documentId})`,
      );
      return;
    }
  } catch (error) {
    const why = systemCode(error);
    if (why?.startsWith("repository-"))
      await db()
        .update(placement)
        .set({ why })
        .where(and(eq(placement.documentId, documentId), eq(placement.state, "waiting")));
    throw error;
  }
  throw new AppError("place-crowded", "later", "too many other files under the name");
}

/** One try at the name that is entered now. "again" when the name was changed or freed. */
async function tryPlace(tx: Tx, documentId: number): Promise<"settled" | "again"> {
  const entered = (await tx.select().from(placement).where(eq(placement.documentId, documentId)))[0];
  if (!entered) return "settled";
  const at = await lockSettledFolder(tx, entered.folderId);
  if (!at) return "settled";
  const path = at.path === "" ? entered.name : `${at.path}/${entered.name}`;
  await lockPath(tx, at.connection, path);
  const found = (
    await tx
      .select({ placement, version: documentVersion, company: document.company })
      .from(placement)
      .innerJoin(document, eq(document.id, placement.documentId))
      .innerJoin(documentVersion, and(eq(documentVersion.documentId, document.id), eq(documentVersion.number, document.currentVersion)))
      .where(and(eq(placement.documentId, documentId), inArray(placement.state, ["waiting", "failed"])))
      .for("update", { of: placement })
  )[0];
  if (!found) return "settled";
  if (found.placement.folderId !== at.id || found.placement.name !== entered.name) return "again";
  const sha256 = parseSha256(found.version.sha256);
  const repository = await openRepository(at.connection);
  const file = await localFile(sha256);
  const put = await repository.put(path, file, sha256);
  if (put.kind === "taken") {
    // Our own earlier version under the name gives way to the new one; it is kept in the landing store and among things taken back.
    const earlier = await tx
      .select({ number: documentVersion.number })
      .from(documentVersion)
      .where(and(eq(documentVersion.documentId, documentId), eq(documentVersion.sha256, put.sha256)));
    if (earlier[0]) await repository.takeBack(path, put.sha256);
    else await stepAside(tx, documentId, at, entered.name);
    return "again";
  }
  const wrong = await provePut(repository, path, file, sha256);
  if (wrong) throw new AppError(wrong, "later", "the file in the repository does not have the right hash");
  const seen = await repository.look(path);
  const done = await tx
    .update(placement)
    .set({
      state: "stored",
      sha256,
      checkedAt: now(),
      why: null,
      seenBytes: seen?.sizeBytes ?? null,
      seenModifiedMs: seen?.modifiedMs ?? null,
      seenMark: seen?.mark ?? null,
    })
    .where(and(eq(placement.documentId, documentId), eq(placement.folderId, at.id), inArray(placement.state, ["waiting", "failed"])))
    .returning({ id: placement.documentId });
  // A link is made only once there is something that it can lead to.
  if (done[0]) {
    const waiting = await tx.execute(sql`select 1 from pointer where document_id = ${documentId} and state = 'wanted' limit 1`);
    if (waiting.rows.length > 0) await addJob(tx, "pointers", {}, { key: "pointers" });
  }
  if (done[0]) await writeLines(tx, [{ verb: "placed", who: PROGRAM, company: found.company, documentId, details: { path } }]);
  return "settled";
}

/** Called when the worker gives up: the placement says why and can be tried again. */
export async function giveUpPlacing(documentId: number, why: string): Promise<void> {
  await db().transaction(async (tx) => {
    const done = await tx
      .update(placement)
      .set({ state: "failed", why })
      .where(and(eq(placement.documentId, documentId), eq(placement.state, "waiting")))
      .returning({ id: placement.documentId });
    if (done[0]) await writeLines(tx, [{ verb: "placingFailed", who: PROGRAM, documentId, details: { why } }]);
  });
}

/** Gives a placement the next free name in its folder. */
async function stepAside(
  tx: Tx,
  documentId: number,
  at: { readonly id: number; readonly connection: string; readonly pathFolded: string },
  name: string,
): Promise<void> {
  const ending = endingOf(name);
  const limits = await limitsOf(at.connection);
  const base = withoutNumber(name);
  const taken = await namesTaken(tx, at.connection, at.pathFolded);
  for (let next = (numberOf(name) ?? 1) + 1; ; next++) {
    const candidate = numberedName(base, ending, next, limits);
    if (taken.has(foldName(candidate))) continue;
    await tx.execute(
      sql`update placement set name = ${candidate}, name_folded = ${foldName(candidate)} where document_id = ${documentId} and name = ${name}`,
    );
    return;
  }
}
