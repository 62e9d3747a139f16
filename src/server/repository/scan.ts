import { createHash } from "node:crypto";
import { eq, sql } from "drizzle-orm";
import { compareListing, type KnownFile, type ListedFile } from "#core/filing-plan/compare-listing.ts";
import { foldName, pathFolder } from "#core/filing-plan/legal-name.ts";
import { db } from "../db/connect.ts";
import { connectionInUse, openRepository } from "../filing-plan/open-repository.ts";
import { isUnderWay, parentPaths } from "../filing-plan/lock-settled-folder.ts";
import { connection } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import type { FolderListing, SeenFile } from "../ports/repository.ts";
import { systemCode } from "../ports/system-code.ts";
import { IdSet } from "./id-set.ts";
import { offerFolders } from "./offer-folders.ts";
import { enterFinding, type Fresh, type Gone, MATCHED_MAX, respell, settleDifferences } from "./settle-differences.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";

/** Folders compared with the database in one go. */
const AT_ONCE = 400;
/** Folders asked for in one go. */
const PAGE = 10_000;

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
 * were moved are followed by their hash, those that are gone become *out of sync*. Folders that look as they did when all agreed are passed over. Memory
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
    // Asked for while the repository is listed; what is made meanwhile is looked for the next time.
    const filled = foldersWithPapers(key);
    filled.catch(() => {});
    let batch: FolderListing[] = [];
    // One batch is compared while the next is listed; never more than these two are held.
    let comparing = Promise.resolve();
    const look = async (): Promise<void> => {
      const listed = batch;
      batch = [];
      await comparing;
      comparing = compareBatch(key, listed, met, { gone, fresh, counts });
      // What goes wrong is thrown where it is waited for.
      comparing.catch(() => {});
    };
    for await (const listing of repository.walk()) {
      counts.folders++;
      counts.files += listing.files.length;
      batch.push(listing);
      if (batch.length >= AT_ONCE) await look();
    }
    await look();
    await comparing;
    gone.push(...(await goneWithTheirFolder((await filled).without(met))));
    await settleDifferences(key, repository, gone, fresh, counts);
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
  let text = "";
  for (const f of [...files].sort((a, b) => (a.path < b.path ? -1 : 1)))
    text += `${f.path.slice(f.path.lastIndexOf("/") + 1)}\0${f.sizeBytes}\0${f.modifiedMs}\0${f.mark}\0`;
  return createHash("sha1").update(text).digest("base64");
}

async function compareBatch(
  key: string,
  batch: readonly FolderListing[],
  met: IdSet,
  found: { readonly gone: Gone[]; readonly fresh: Fresh[]; readonly counts: { changed: number } },
): Promise<void> {
  if (batch.length === 0) return;
  const fold = pathFolder();
  const rows = await db().execute<Row & Record<string, unknown>>(
    sql`select id, path, kind, record_id, digest, ${isUnderWay(sql`folder.id`)} as is_moving from folder where connection = ${key} and path_folded = any(${textArray(batch.map((b) => fold(b.folder)))}::text[])`,
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
      const own = new Set(here.filter((k) => k.state !== "stored").map((k) => foldName(k.name)));
      const placed: (KnownFile & { sha256: string | null })[] = here
        .filter((k) => k.state === "stored")
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

/** Folders that are no record's: those within a record's folder hold its documents; others may be offered to a record. */
async function lookAtStrange(key: string, strange: readonly FolderListing[], fresh: Fresh[]): Promise<void> {
  const parent = [...new Set(strange.flatMap((s) => parentPaths(s.folder)))];
  const rows = await db().execute<{ path: string; id: number; record_id: number | null; kind: string }>(
    sql`select path, id, record_id, kind from folder where connection = ${key} and path_folded = any(${textArray(parent.map(pathFolder()))}::text[])`,
  );
  const byPath = new Map(rows.rows.map((r) => [r.path, r]));
  const offered: string[] = [];
  for (const listing of strange) {
    const owner = parentPaths(listing.folder)
      .toReversed()
      .map((p) => byPath.get(p))
      .find((r) => r !== undefined && r.kind !== "within");
    // Only what stands in a folder that somebody made within a record's own; the plan's own steps in between (years, root folders) hold no documents.
    if (owner?.record_id != null)
      for (const file of listing.files) fresh.push({ file, folderId: null, recordId: owner.record_id, isStray: false });
    else {
      if (fresh.length < MATCHED_MAX) for (const file of listing.files) fresh.push({ file, folderId: null, recordId: null, isStray: true });
      if (listing.folder !== "") offered.push(listing.folder);
    }
  }
  await offerFolders(key, offered);
}

/** Folders in which placed documents should be. */
async function foldersWithPapers(key: string): Promise<IdSet> {
  const filled = new IdSet();
  for (let after = 0; ;) {
    const { rows } = await db().execute<{ id: number; has: boolean }>(
      sql`select f.id, not ${isUnderWay(sql`f.id`)} and exists (select 1 from placement p where p.folder_id = f.id and p.state = 'stored') as has
        from folder f where f.connection = ${key} and f.id > ${after} order by f.id limit ${PAGE}`,
    );
    for (const r of rows) if (r.has) filled.add(r.id);
    const last = rows.at(-1);
    if (rows.length < PAGE || !last) return filled;
    after = last.id;
  }
}

/** Documents whose whole folder is no longer there. */
async function goneWithTheirFolder(folderIds: readonly number[]): Promise<readonly Gone[]> {
  if (folderIds.length === 0) return [];
  const gone = await db().execute<{ id: number; path: string; bytes: number | null; sha256: string | null }>(
    sql`select p.document_id as id, pl.path, p.seen_bytes as bytes, p.sha256 from placement p join place pl on pl.document_id = p.document_id
      join folder f on f.id = p.folder_id
      where p.state = 'stored' and not ${isUnderWay(sql`f.id`)} and p.folder_id = any(${idArray(folderIds)}::bigint[])`,
  );
  return gone.rows.map((g) => ({ documentId: g.id, path: g.path, sizeBytes: g.bytes, sha256: g.sha256, withFolder: true }));
}
