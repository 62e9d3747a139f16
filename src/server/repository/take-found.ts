import { randomUUID } from "node:crypto";
import { and, eq, sql } from "drizzle-orm";
import { guessType } from "#core/filing-plan/compare-listing.ts";
import { endingOf, foldName, foldPath } from "#core/filing-plan/legal-name.ts";
import { documentCodeOf, type Sha256 } from "#core/shared/brand.ts";
import { internClass } from "../access/class-bits.ts";
import { arrival } from "../arrivals/tables.ts";
import { enterChildDocuments } from "../clips/refresh-child-documents.ts";
import { clip } from "../clips/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { content, document, documentVersion } from "../documents/tables.ts";
import { connectionInUse, openRepository } from "../filing-plan/open-repository.ts";
import { lockSettledFolder } from "../filing-plan/lock-settled-folder.ts";
import { finding, folder, ownFolder, placement } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { landingStore } from "../ports/adapters.ts";
import { AppError } from "../ports/app-error.ts";
import type { LandingStore } from "../ports/landing-store.ts";
import { now, today } from "../ports/clock.ts";
import type { SeenFile } from "../ports/repository.ts";
import { loadDocumentTypes } from "../records/load-types.ts";
import { record } from "../records/tables.ts";
import { loadLimits } from "../settings/load-settings.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { SETTLE_SECONDS } from "./settle-differences.ts";

type Finding = typeof finding.$inferSelect;
/** Queue that the register shows documents under which were put straight into the repository. */
const QUEUE = "general";
const TITLE_MAX = 200;

/**
 * Takes what a scan found, once it has settled: a new file in a record's folder becomes a document clipped to that record, a changed one a new
 * version, or a question when the connection does not take changes by itself. Its bytes are kept before anything is entered. While there is no room for
 * them it goes on settling: the next look tries again. Safe to run twice.
 */
export async function takeFound(id: number, decidedBy: string | null = null, store: LandingStore = landingStore()): Promise<void> {
  const found = (await db().select().from(finding).where(eq(finding.id, id)))[0];
  if (!found || (found.state !== "settling" && decidedBy === null) || found.state === "decided") return;
  const inUse = await connectionInUse(found.connection);
  const repository = await openRepository(found.connection);
  const seen = await repository.look(found.path);
  if (!seen) {
    await db().delete(finding).where(eq(finding.id, id));
    return;
  }
  if (seen.sizeBytes !== found.seenBytes || seen.modifiedMs !== found.seenModifiedMs) {
    // Somebody is still writing it.
    await db()
      .update(finding)
      .set({ seenBytes: seen.sizeBytes, seenModifiedMs: seen.modifiedMs, seenMark: seen.mark, changedAt: now() })
      .where(eq(finding.id, id));
    await addJob(db(), "takeFound", { finding: id }, { key: `takeFound:${id}`, afterSeconds: SETTLE_SECONDS });
    return;
  }
  const stream = await repository.read(found.path);
  if (!stream) return;
  const landed = await store.keep(stream, (await loadLimits()).bytesMax);
  if (!landed.ok) {
    await db()
      .update(finding)
      .set({ why: landed.refusal.code, ...(landed.refusal.code === "no-space" ? {} : { state: "open" }) })
      .where(eq(finding.id, id));
    return;
  }
  const after = await repository.look(found.path);
  if (!after || after.sizeBytes !== seen.sizeBytes || after.modifiedMs !== seen.modifiedMs)
    throw new AppError("still-written", "later", "the file changed while it was read");
  const bytes = { sha256: landed.value.sha256, sizeBytes: landed.value.sizeBytes, seen };
  if (found.kind === "new") await db().transaction((tx) => becomeDocument(tx, found, bytes, decidedBy));
  else if (found.kind === "changed")
    await db().transaction((tx) => becomeVersion(tx, found, bytes, inUse.options.takesChanges || decidedBy !== null, decidedBy));
}

interface Bytes {
  readonly sha256: Sha256;
  readonly sizeBytes: number;
  readonly seen: SeenFile;
}

async function becomeDocument(tx: Tx, found: Finding, bytes: Bytes, decidedBy: string | null): Promise<void> {
  const takenAt = now();
  const held = (await tx.select().from(finding).where(eq(finding.id, found.id)).for("update"))[0];
  if (!held || held.state === "decided") return;
  const owner = found.recordId === null ? undefined : (await tx.select().from(record).where(eq(record.id, found.recordId)))[0];
  if (!owner) {
    await tx.update(finding).set({ state: "open", why: "no-record" }).where(eq(finding.id, found.id));
    return;
  }
  const cut = found.path.lastIndexOf("/");
  const [folderPath, name] = [cut === -1 ? "" : found.path.slice(0, cut), found.path.slice(cut + 1)];
  const pathFolded = folderPath === "" ? "" : foldPath(folderPath.split("/"));
  await tx
    .insert(folder)
    .values({
      recordId: owner.id,
      connection: found.connection,
      path: folderPath,
      pathFolded,
      kind: "within",
      ruleStamp: "",
      madeAt: takenAt,
    })
    .onConflictDoNothing();
  const at = (
    await tx
      .select()
      .from(folder)
      .where(and(eq(folder.connection, found.connection), eq(folder.pathFolded, pathFolded)))
  )[0];
  if (!at || !(await lockSettledFolder(tx, at.id))) return;
  const known = await tx
    .select({ id: placement.documentId, name: placement.name, sha256: placement.sha256 })
    .from(placement)
    .where(and(eq(placement.folderId, at.id), eq(placement.nameFolded, foldName(name))));
  // Ours after all: its folder had just been moved here when it was seen, and that was not written down yet.
  if (known[0]?.name === name && known[0].sha256 === bytes.sha256) {
    await tx.delete(finding).where(eq(finding.id, found.id));
    return;
  }
  // One that differs from ours, if only in capitals: somebody has to look.
  if (known[0]) {
    await tx.update(finding).set({ state: "open", why: "name-taken" }).where(eq(finding.id, found.id));
    return;
  }
  const own = (await tx.select({ path: ownFolder.path }).from(ownFolder).where(eq(ownFolder.recordId, owner.id)))[0];
  const within = own && folderPath.startsWith(`${own.path}/`) ? folderPath.slice(own.path.length + 1) : null;
  const types = await loadDocumentTypes(tx);
  const guessed = guessType(types, name, within);
  const type = guessed ?? types.find((t) => t.key === "other") ?? types.at(-1);
  if (!type) throw new Error("no document types");
  const id = (await tx.execute<{ id: number }>(sql`select nextval('document_id_seq') as id`)).rows[0]?.id;
  if (id === undefined) throw new Error("no document id");
  const code = documentCodeOf(id);
  const ending = endingOf(name);
  const title =
    name
      .slice(0, name.length - ending.length)
      .trim()
      .slice(0, TITLE_MAX) || name.slice(0, TITLE_MAX);
  const aclId = await internClass(tx, {
    company: owner.company,
    documentType: type.key,
    confidential: type.confidential,
    recordTypes: [owner.type],
  });
  await tx.insert(content).values({ sha256: bytes.sha256, sizeBytes: bytes.sizeBytes }).onConflictDoNothing();
  await tx.execute(sql`update content set is_landed = true where sha256 = ${bytes.sha256}`);
  await tx.insert(document).values({
    id,
    code,
    company: owner.company,
    documentType: type.key,
    typeSaid: guessed !== null,
    title,
    properties: {},
    confidential: type.confidential,
    aclId,
    documentDate: today(),
    filedAt: takenAt,
    filedBy: PROGRAM,
    changedAt: takenAt,
  });
  await tx
    .insert(documentVersion)
    .values({ documentId: id, number: 1, sha256: bytes.sha256, fileName: name, madeAt: takenAt, madeBy: PROGRAM });
  // Nobody was asked, so it shows on its own record only.
  await tx.insert(clip).values({ documentId: id, recordId: owner.id, position: 0, section: within, madeAt: takenAt, madeBy: PROGRAM });
  await tx
    .update(record)
    .set({ documentCount: sql`${record.documentCount} + 1` })
    .where(eq(record.id, owner.id));
  await enterChildDocuments(tx, id);
  await tx.insert(placement).values({ documentId: id, folderId: at.id, name, nameFolded: foldName(name), ...proof(bytes) });
  const arrivalId = await enterArrival(tx, owner.company, name, bytes, id, owner.id);
  await tx
    .update(finding)
    .set({ state: "decided", decision: "taken", documentId: id, decidedBy, why: null, sha256: bytes.sha256 })
    .where(eq(finding.id, found.id));
  const about = { who: PROGRAM, company: owner.company, documentId: id };
  await writeLines(tx, [
    { ...about, verb: "takenIn", arrivalId, details: { fileName: name, source: "repository" } },
    { ...about, verb: "foundNew", details: { path: found.path } },
    { ...about, verb: "clipped", recordId: owner.id, details: { title, code } },
  ]);
  await addJob(tx, "index", { documentId: id }, { key: `index:${id}`, priority: 1 });
}

const proof = (bytes: Bytes) => ({
  state: "stored",
  sha256: bytes.sha256,
  checkedAt: now(),
  why: null,
  seenBytes: bytes.seen.sizeBytes,
  seenModifiedMs: bytes.seen.modifiedMs,
  seenMark: bytes.seen.mark,
});

/** The register's line for what came in through the repository: filed already, and read like every other. */
async function enterArrival(
  tx: Tx,
  company: string,
  fileName: string,
  bytes: Bytes,
  documentId: number,
  recordId: number | null,
): Promise<string> {
  const id = randomUUID();
  const at = now();
  await tx.insert(arrival).values({
    id,
    company,
    queue: QUEUE,
    source: "repository",
    fileName,
    sha256: bytes.sha256,
    sizeBytes: bytes.sizeBytes,
    state: "filed",
    recordId,
    receivedAt: at,
    receivedBy: PROGRAM,
    endedAt: at,
    endedBy: PROGRAM,
    documentId,
  });
  await addJob(tx, "read", { arrivalId: id }, { key: `read:${id}` });
  return id;
}

async function becomeVersion(tx: Tx, found: Finding, bytes: Bytes, isAllowed: boolean, decidedBy: string | null): Promise<void> {
  if (found.documentId === null) return;
  const was = (await tx.select().from(document).where(eq(document.id, found.documentId)).for("update"))[0];
  const at = (await tx.select().from(placement).where(eq(placement.documentId, found.documentId)).for("update"))[0];
  const decided = { state: "decided", decidedBy, why: null, sha256: bytes.sha256 };
  if (!was || !at || was.unfiledAt || at.takenBackBy !== null) {
    await tx
      .update(finding)
      .set({ ...decided, decision: "unfiled" })
      .where(eq(finding.id, found.id));
    return;
  }
  if (at.sha256 === bytes.sha256) {
    // Touched, not changed.
    await tx.update(placement).set(proof(bytes)).where(eq(placement.documentId, was.id));
    await tx
      .update(finding)
      .set({ ...decided, decision: "same" })
      .where(eq(finding.id, found.id));
    return;
  }
  if (!isAllowed) {
    await tx.update(finding).set({ state: "open", sha256: bytes.sha256 }).where(eq(finding.id, found.id));
    await tx.update(placement).set({ state: "outOfSync", why: "changed" }).where(eq(placement.documentId, was.id));
    await writeLines(tx, [{ verb: "foundChanged", who: PROGRAM, company: was.company, documentId: was.id }]);
    return;
  }
  await enterVersion(tx, was, bytes, found.path.split("/").at(-1) ?? was.title, found.recordId);
  await tx
    .update(finding)
    .set({ ...decided, decision: "version" })
    .where(eq(finding.id, found.id));
}

/** Enters bytes that stand in the repository under a document's name as its current version. One it had before is that version again. */
export async function enterVersion(
  tx: Tx,
  was: typeof document.$inferSelect,
  bytes: Bytes,
  fileName: string,
  recordId: number | null,
): Promise<void> {
  await tx.insert(content).values({ sha256: bytes.sha256, sizeBytes: bytes.sizeBytes }).onConflictDoNothing();
  await tx.execute(sql`update content set is_landed = true where sha256 = ${bytes.sha256}`);
  const known = (
    await tx
      .select({ number: documentVersion.number })
      .from(documentVersion)
      .where(and(eq(documentVersion.documentId, was.id), eq(documentVersion.sha256, bytes.sha256)))
  )[0];
  const last = await tx.execute<{ n: number }>(sql`select max(number)::int as n from document_version where document_id = ${was.id}`);
  const number = known?.number ?? (last.rows[0]?.n ?? 0) + 1;
  if (!known)
    await tx.insert(documentVersion).values({ documentId: was.id, number, sha256: bytes.sha256, fileName, madeAt: now(), madeBy: PROGRAM });
  await tx.update(document).set({ currentVersion: number, changedAt: now() }).where(eq(document.id, was.id));
  await tx.update(placement).set(proof(bytes)).where(eq(placement.documentId, was.id));
  const arrivalId = await enterArrival(tx, was.company, fileName, bytes, was.id, recordId);
  await writeLines(tx, [
    { verb: "takenIn", who: PROGRAM, company: was.company, arrivalId, details: { fileName, source: "repository" } },
    { verb: "foundChanged", who: PROGRAM, company: was.company, documentId: was.id },
    { verb: "versionAdded", who: PROGRAM, company: was.company, documentId: was.id, arrivalId, details: { version: String(number) } },
  ]);
  await addJob(tx, "index", { documentId: was.id }, { key: `index:${was.id}`, priority: 1 });
}
