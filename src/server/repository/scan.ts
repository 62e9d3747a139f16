import { createHash } from "node:crypto";
import { and, eq, sql } from "drizzle-orm";
import { compareListing, type KnownFile, type ListedFile } from "#core/filing-plan/compare-listing.ts";
import { foldName, foldPath } from "#core/filing-plan/legal-name.ts";
import { db, type Tx } from "../db/connect.ts";
import { connectionInUse, openRepository } from "../filing-plan/open-repository.ts";
import { pathsAbove } from "../filing-plan/still-folder.ts";
import { connection, finding, folder, placement } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import type { FolderListing, Repository, SeenFile } from "../ports/repository.ts";
import { systemCode } from "../ports/system-code.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { offerFolder } from "./offer-folder.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";

/** Folders compared with the database in one go. */
const AT_ONCE = 400;
/** A file is taken when it has not changed for so long, seconds: until then somebody may still be writing it. */
export const SETTLE_SECONDS = 3;
/** Differences kept until the end of a scan to find out what was moved; beyond that each is taken as it looks. */
const MATCHED_MAX = 5000;

interface Gone {
  readonly documentId: number;
  readonly path: string;
  readonly sizeBytes: number | null;
  readonly sha256: string | null;
  /** Its whole folder is no longer there. */
  readonly withFolder: boolean;
}
interface Fresh {
  readonly file: SeenFile;
  readonly folderId: number | null;
  readonly recordId: number | null;
  /** Stands in no record's folder: of interest only if it is one of ours that was moved there. */
  readonly isStray: boolean;
}
interface Row {
  readonly id: number;
  readonly path: string;
  readonly kind: string;
  readonly record_id: number | null;
  readonly digest: string | null;
  readonly is_moving: boolean;
}

/** What a scan found, for the connection's line in Set-up. */
export interface Scanned {
  readonly folders: number;
  readonly files: number;
  readonly fresh: number;
  readonly changed: number;
  readonly gone: number;
  readonly moved: number;
  readonly tookMs: number;
  readonly why: string | null;
}

/**
 * Looks a repository through and compares it with what we know: new files are noted to be taken once they have settled, changed ones too, those that
 * were moved are followed by their hash, those that are gone become *adrift*. Folders that look as they did when all agreed are passed over. Memory
 * does not grow with the repository. What we are writing ourselves is never taken for a change: it is entered before it is written.
 */
export async function scanConnection(key: string): Promise<void> {
  const inUse = await connectionInUse(key);
  if (!inUse.options.isWatched) return;
  const began = Date.now();
  const startedAt = now();
  const counts = { folders: 0, files: 0, fresh: 0, changed: 0, gone: 0, moved: 0 };
  try {
    const repository = await openRepository(key);
    const met = new IdSet();
    const gone: Gone[] = [];
    const fresh: Fresh[] = [];
    let batch: FolderListing[] = [];
    const look = async (): Promise<void> => {
      await compareBatch(key, batch, met, { gone, fresh, counts });
      batch = [];
    };
    for await (const listing of repository.walk()) {
      counts.folders++;
      counts.files += listing.files.length;
      batch.push(listing);
      if (batch.length >= AT_ONCE) await look();
    }
    await look();
    gone.push(...(await goneWithTheirFolder(key, met)));
    await settle(key, repository, gone, fresh, counts);
    // What had been found and is no longer there needs no decision.
    await db().execute(
      sql`delete from finding where connection = ${key} and kind in ('new','folder') and state in ('settling','open') and changed_at < ${startedAt}`,
    );
    await placeAgainAfterOutage(key);
    await note(key, { ...counts, tookMs: Date.now() - began, why: null });
  } catch (error) {
    const why = systemCode(error) ?? "unknown";
    await note(key, { ...counts, tookMs: Date.now() - began, why });
    if (!why.startsWith("repository-")) throw error;
  }
}

async function note(key: string, scanned: Scanned): Promise<void> {
  await db().update(connection).set({ scannedAt: now(), scanned }).where(eq(connection.key, key));
}

/** A repository that answers again: what was given up on because it did not is placed now. */
async function placeAgainAfterOutage(key: string): Promise<void> {
  const again = await db().execute<{
    id: number;
  }>(sql`update placement p set state = 'waiting' from folder f where f.id = p.folder_id and f.connection = ${key}
    and p.state = 'failed' and (p.why like 'repository-%' or p.why = 'tried many times') returning p.document_id as id`);
  for (const { id } of again.rows) await addJob(db(), "place", { documentId: id }, { key: `place:${id}` });
}

/** What a listing looks like, in a few bytes. */
export function digestOf(files: readonly SeenFile[]): string {
  const hash = createHash("sha1");
  for (const f of [...files].sort((a, b) => (a.path < b.path ? -1 : 1)))
    hash.update(`${f.path.slice(f.path.lastIndexOf("/") + 1)}\0${f.sizeBytes}\0${f.modifiedMs}\0${f.mark}\0`);
  return hash.digest("base64");
}

async function compareBatch(
  key: string,
  batch: readonly FolderListing[],
  met: IdSet,
  found: { readonly gone: Gone[]; readonly fresh: Fresh[]; readonly counts: { changed: number } },
): Promise<void> {
  if (batch.length === 0) return;
  const rows = await db().execute<Row & Record<string, unknown>>(
    sql`select id, path, kind, record_id, digest, is_moving from folder where connection = ${key} and path = any(${textArray(batch.map((b) => b.folder))}::text[])`,
  );
  const byPath = new Map(rows.rows.map((r) => [r.path, r]));
  const agreed: { id: number; digest: string }[] = [];
  const disagreed: number[] = [];
  const differs: { readonly listing: FolderListing; readonly row: Row; readonly digest: string }[] = [];
  const strange: FolderListing[] = [];
  for (const listing of batch) {
    const row = byPath.get(listing.folder);
    if (!row) {
      if (listing.files.length > 0 || listing.folder !== "") strange.push(listing);
      continue;
    }
    met.add(row.id);
    if (row.is_moving) continue;
    const digest = digestOf(listing.files);
    if (digest !== row.digest) differs.push({ listing, row, digest });
  }
  if (differs.length > 0) {
    const ids = `{${differs.map((d) => d.row.id).join(",")}}`;
    const known = await db().execute<{
      folder_id: number;
      document_id: number;
      name: string;
      state: string;
      sha256: string | null;
      bytes: number | null;
      modified: number | null;
      mark: string | null;
    }>(sql`select folder_id, document_id, name, state, sha256, seen_bytes as bytes, seen_modified_ms as modified, seen_mark as mark from placement where folder_id = any(${ids}::bigint[])
      union all select folder_id, document_id, name, 'pointer', null, null, null, null from pointer where folder_id = any(${ids}::bigint[])`);
    for (const { listing, row, digest } of differs) {
      const here = known.rows.filter((k) => k.folder_id === row.id);
      // What is on its way, or a link of ours, is neither new nor gone.
      const own = new Set(here.filter((k) => k.state !== "placed").map((k) => foldName(k.name)));
      const placed: (KnownFile & { sha256: string | null })[] = here
        .filter((k) => k.state === "placed")
        .map((k) => ({
          documentId: k.document_id,
          name: k.name,
          sizeBytes: k.bytes,
          modifiedMs: k.modified,
          mark: k.mark,
          sha256: k.sha256,
        }));
      const listed = listing.files.map((f) => ({ ...f, name: f.path.slice(f.path.lastIndexOf("/") + 1) }));
      const difference = compareListing(placed, listed, own);
      for (const f of difference.fresh)
        found.fresh.push({ file: fileOf(listing.folder, f), folderId: row.id, recordId: row.record_id, isStray: false });
      for (const g of difference.gone)
        found.gone.push({
          documentId: g.documentId,
          path: listing.folder === "" ? g.name : `${listing.folder}/${g.name}`,
          sizeBytes: g.sizeBytes,
          sha256: placed.find((p) => p.documentId === g.documentId)?.sha256 ?? null,
          withFolder: false,
        });
      for (const { known: k, seen } of difference.respelt) await respell(k.documentId, row.id, seen.name);
      for (const { known: k, seen } of difference.changed) {
        found.counts.changed++;
        await enterFinding(key, "changed", fileOf(listing.folder, seen), {
          folderId: row.id,
          recordId: row.record_id,
          documentId: k.documentId,
        });
      }
      if (difference.fresh.length + difference.changed.length + difference.gone.length === 0 && own.size === 0)
        agreed.push({ id: row.id, digest });
      else if (row.digest !== null) disagreed.push(row.id);
    }
  }
  // What it looked like when all agreed says nothing any more: once the difference is taken in, that same look would be the one that differs.
  if (disagreed.length > 0) await db().execute(sql`update folder set digest = null where id = any(${idArray(disagreed)}::bigint[])`);
  if (agreed.length > 0)
    await db().execute(
      sql`update folder f set digest = x.digest, checked_at = now() from jsonb_to_recordset(${JSON.stringify(agreed)}::jsonb) as x(id bigint, digest text) where f.id = x.id`,
    );
  if (strange.length > 0) await lookAtStrange(key, strange, found.fresh);
}

const fileOf = (folderPath: string, f: ListedFile): SeenFile => ({
  path: folderPath === "" ? f.name : `${folderPath}/${f.name}`,
  sizeBytes: f.sizeBytes,
  modifiedMs: f.modifiedMs,
  mark: f.mark,
});

/** Folders that are no record's: those within a record's folder hold its papers; others may be offered to a record. */
async function lookAtStrange(key: string, strange: readonly FolderListing[], fresh: Fresh[]): Promise<void> {
  const above = [...new Set(strange.flatMap((s) => pathsAbove(s.folder)))];
  const rows = await db().execute<{ path: string; id: number; record_id: number | null; kind: string }>(
    sql`select path, id, record_id, kind from folder where connection = ${key} and path = any(${textArray(above)}::text[])`,
  );
  const byPath = new Map(rows.rows.map((r) => [r.path, r]));
  for (const listing of strange) {
    const owner = pathsAbove(listing.folder)
      .toReversed()
      .map((p) => byPath.get(p))
      .find((r) => r !== undefined && r.kind !== "within");
    // Only what stands in a folder that somebody made within a record's own; the plan's own steps in between (years, root folders) hold no papers.
    if (owner?.record_id != null)
      for (const file of listing.files) fresh.push({ file, folderId: null, recordId: owner.record_id, isStray: false });
    else {
      if (fresh.length < MATCHED_MAX) for (const file of listing.files) fresh.push({ file, folderId: null, recordId: null, isStray: true });
      if (listing.folder !== "") await offerFolder(key, listing.folder);
    }
  }
}

/** Documents whose whole folder is no longer there. */
async function goneWithTheirFolder(key: string, met: IdSet): Promise<readonly Gone[]> {
  const rows = await db().execute<{ id: number }>(
    sql`select f.id from folder f where f.connection = ${key} and not f.is_moving and exists (select 1 from placement p where p.folder_id = f.id and p.state = 'placed')`,
  );
  const ids = rows.rows.map((r) => r.id).filter((id) => !met.has(id));
  if (ids.length === 0) return [];
  const gone = await db().execute<{ id: number; path: string; bytes: number | null; sha256: string | null }>(
    sql`select p.document_id as id, pl.path, p.seen_bytes as bytes, p.sha256 from placement p join place pl on pl.document_id = p.document_id
      where p.state = 'placed' and p.folder_id = any(${`{${ids.join(",")}}`}::bigint[])`,
  );
  return gone.rows.map((g) => ({ documentId: g.id, path: g.path, sizeBytes: g.bytes, sha256: g.sha256, withFolder: true }));
}

/** Tells what was moved from what is new and what is gone, by size and then by hash, and enters each. */
async function settle(
  key: string,
  repository: Repository,
  gone: readonly Gone[],
  fresh: readonly Fresh[],
  counts: { fresh: number; gone: number; moved: number },
): Promise<void> {
  const left = new Map(gone.map((g) => [g.documentId, g]));
  const moved = new Set<string>();
  if (gone.length <= MATCHED_MAX && fresh.length <= MATCHED_MAX)
    for (const f of fresh) {
      const likely = [...left.values()].filter((g) => g.sha256 !== null && (g.sizeBytes === null || g.sizeBytes === f.file.sizeBytes));
      if (likely.length === 0) continue;
      const sha256 = await repository.hashOf(f.file.path);
      const is = likely.find((g) => g.sha256 === sha256);
      if (!is || (await repository.look(is.path))) continue;
      if (!(await follow(key, is, f))) continue;
      left.delete(is.documentId);
      moved.add(f.file.path);
      counts.moved++;
    }
  for (const g of left.values()) {
    // It may have come, or been moved by ourselves, since the folder was listed.
    if (await repository.look(g.path)) continue;
    if (await setAdrift(key, g)) counts.gone++;
  }
  for (const f of fresh) {
    if (moved.has(f.file.path) || f.isStray) continue;
    counts.fresh++;
    await enterFinding(key, "new", f.file, { folderId: f.folderId, recordId: f.recordId, documentId: null });
  }
}

/** A document whose file somebody moved or renamed: it is known there from now on. */
async function follow(key: string, was: Gone, f: Fresh): Promise<boolean> {
  const cut = f.file.path.lastIndexOf("/");
  const folderPath = cut === -1 ? "" : f.file.path.slice(0, cut);
  const name = f.file.path.slice(cut + 1);
  return db().transaction(async (tx) => {
    const about = (
      await tx.execute<{ company: string; record_id: number | null; path: string }>(
        sql`select d.company, (select record_id from clip where document_id = d.id order by position limit 1) as record_id, pl.path
        from document d join place pl on pl.document_id = d.id join placement p on p.document_id = d.id where d.id = ${was.documentId} and p.state = 'placed' and p.taken_back_by is null for update of p`,
      )
    ).rows[0];
    if (about?.path !== was.path) return false;
    const pathFolded = folderPath === "" ? "" : foldPath(folderPath.split("/"));
    await tx
      .insert(folder)
      .values({
        recordId: f.recordId ?? about.record_id,
        connection: key,
        path: folderPath,
        pathFolded,
        kind: "within",
        ruleStamp: "",
        madeAt: now(),
      })
      .onConflictDoNothing();
    const at = (
      await tx
        .select({ id: folder.id })
        .from(folder)
        .where(and(eq(folder.connection, key), eq(folder.pathFolded, pathFolded)))
    )[0];
    if (!at) return false;
    const done = await tx
      .update(placement)
      .set({
        folderId: at.id,
        name,
        nameFolded: foldName(name),
        checkedAt: now(),
        seenBytes: f.file.sizeBytes,
        seenModifiedMs: f.file.modifiedMs,
        seenMark: f.file.mark,
      })
      .where(and(eq(placement.documentId, was.documentId), eq(placement.state, "placed")))
      .returning({ id: placement.documentId });
    if (!done[0]) return false;
    if (was.withFolder) await followFolder(tx, key, was.path.slice(0, was.path.lastIndexOf("/")), at.id);
    await writeLines(tx, [
      { verb: "foundMoved", who: PROGRAM, company: about.company, documentId: was.documentId, details: { path: f.file.path } },
    ]);
    return true;
  });
}

/** A record's folder that somebody renamed or moved with all in it: once its last paper was met elsewhere, that other folder is the record's own. */
async function followFolder(tx: Tx, key: string, was: string, nextId: number): Promise<void> {
  const old = (
    await tx
      .select()
      .from(folder)
      .where(and(eq(folder.connection, key), eq(folder.path, was)))
  )[0];
  if (old?.kind !== "record") return;
  const left = await tx.execute(sql`select 1 from placement where folder_id = ${old.id} limit 1`);
  const next = (await tx.select().from(folder).where(eq(folder.id, nextId)))[0];
  if (left.rows.length > 0 || next?.kind !== "within" || next.recordId !== old.recordId) return;
  await tx.update(folder).set({ kind: "within" }).where(eq(folder.id, old.id));
  await tx.update(folder).set({ kind: "record" }).where(eq(folder.id, next.id));
}

/** A document whose file is gone: adrift, until somebody says what is to become of it. */
async function setAdrift(key: string, g: Gone): Promise<boolean> {
  return db().transaction(async (tx) => {
    const done = await tx.execute<{
      id: number;
      company: string;
      record_id: number | null;
    }>(sql`update placement p set state = 'adrift', why = 'gone'
      from document d, place pl where d.id = p.document_id and pl.document_id = p.document_id and pl.path = ${g.path} and p.document_id = ${g.documentId}
        and p.state = 'placed' and p.taken_back_by is null
      returning d.id, d.company, (select record_id from clip where document_id = d.id order by position limit 1) as record_id`);
    const about = done.rows[0];
    if (!about) return false;
    await tx
      .insert(finding)
      .values({
        connection: key,
        path: g.path,
        pathFolded: foldPath(g.path.split("/")),
        kind: "removed",
        documentId: g.documentId,
        recordId: about.record_id,
        sha256: g.sha256,
        state: "open",
        foundAt: now(),
        changedAt: now(),
      })
      .onConflictDoUpdate({
        target: [finding.connection, finding.pathFolded, finding.kind],
        set: {
          state: "open",
          documentId: g.documentId,
          recordId: about.record_id,
          sha256: g.sha256,
          decision: null,
          decidedBy: null,
          foundAt: now(),
          changedAt: now(),
        },
      });
    await writeLines(tx, [{ verb: "foundGone", who: PROGRAM, company: about.company, documentId: g.documentId }]);
    return true;
  });
}

async function respell(documentId: number, folderId: number, name: string): Promise<void> {
  await db()
    .update(placement)
    .set({ name })
    .where(and(eq(placement.documentId, documentId), eq(placement.folderId, folderId), eq(placement.nameFolded, foldName(name))));
}

/** Notes a new or changed file; once it has not changed for a while it is taken. What somebody has decided to leave is left until it changes again. */
async function enterFinding(
  key: string,
  kind: "new" | "changed",
  file: SeenFile,
  about: { readonly folderId: number | null; readonly recordId: number | null; readonly documentId: number | null },
): Promise<void> {
  const at = now();
  const seen = { seenBytes: file.sizeBytes, seenModifiedMs: file.modifiedMs, seenMark: file.mark };
  const rows = await db()
    .insert(finding)
    .values({
      connection: key,
      path: file.path,
      pathFolded: foldPath(file.path.split("/")),
      kind,
      ...about,
      ...seen,
      state: "settling",
      foundAt: at,
      changedAt: at,
    })
    .onConflictDoUpdate({
      target: [finding.connection, finding.pathFolded, finding.kind],
      set: {
        ...about,
        ...seen,
        changedAt: at,
        state: sql`case when finding.seen_bytes is distinct from ${file.sizeBytes} or finding.seen_modified_ms is distinct from ${file.modifiedMs} then 'settling' else finding.state end`,
      },
    })
    .returning({ id: finding.id, state: finding.state });
  const row = rows[0];
  if (row?.state === "settling")
    await addJob(db(), "takeFound", { finding: row.id }, { key: `takeFound:${row.id}`, afterSeconds: SETTLE_SECONDS });
}

/** A set of row ids that takes one bit each. */
class IdSet {
  private bits = new Uint8Array(1 << 13);
  add(id: number): void {
    const at = Math.floor(id / 8);
    if (at >= this.bits.length) {
      const larger = new Uint8Array(Math.max(this.bits.length * 2, at + 1));
      larger.set(this.bits);
      this.bits = larger;
    }
    this.bits[at] = (this.bits[at] ?? 0) | (1 << (id % 8));
  }
  has(id: number): boolean {
    return ((this.bits[Math.floor(id / 8)] ?? 0) & (1 << (id % 8))) !== 0;
  }
}
