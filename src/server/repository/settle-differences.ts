import { and, eq, sql } from "drizzle-orm";
import { foldName, foldPath } from "#core/filing-plan/legal-name.ts";
import { db, type Tx } from "../db/connect.ts";
import { finding, folder, placement } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { now } from "../ports/clock.ts";
import type { Repository, SeenFile } from "../ports/repository.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";

/** A file is taken when it has not changed for so long, seconds: until then somebody may still be writing it. */
export const SETTLE_SECONDS = 3;
/** Differences kept until the end of a scan to find out what was moved; beyond that each is taken as it looks. */
export const MATCHED_MAX = 50_000;

/** A document whose file is not where it was. */
export interface Gone {
  readonly documentId: number;
  readonly path: string;
  readonly sizeBytes: number | null;
  readonly sha256: string | null;
  /** Its whole folder is no longer there. */
  readonly withFolder: boolean;
}
/** A file that is none of ours as far as the listing tells. */
export interface Fresh {
  readonly file: SeenFile;
  readonly folderId: number | null;
  readonly recordId: number | null;
  /** Stands in no record's folder: of interest only if it is one of ours that was moved there. */
  readonly isStray: boolean;
}
/** Tells what was moved from what is new and what is gone, by size and then by hash, and enters each. */
export async function settleDifferences(
  key: string,
  repository: Repository,
  gone: readonly Gone[],
  fresh: readonly Fresh[],
  counts: { fresh: number; gone: number; moved: number },
): Promise<void> {
  const left = new Map(gone.map((g) => [g.documentId, g]));
  const moved = new Set<string>();
  // Those of one size may be thousands: only whether there is one is asked of them, and which one it is by its hash.
  const bySize = new Map<number | null, number>();
  const byHash = new Map<string, Gone[]>();
  for (const g of gone) {
    if (g.sha256 === null) continue;
    bySize.set(g.sizeBytes, (bySize.get(g.sizeBytes) ?? 0) + 1);
    const same = byHash.get(g.sha256);
    if (same) same.push(g);
    else byHash.set(g.sha256, [g]);
  }
  if (gone.length <= MATCHED_MAX && fresh.length <= MATCHED_MAX)
    for (const f of fresh) {
      if (!bySize.get(f.file.sizeBytes) && !bySize.get(null)) continue;
      const sha256 = await repository.hashOf(f.file.path);
      const is = sha256 === null ? undefined : byHash.get(sha256)?.find((g) => left.has(g.documentId));
      if (!is || (await repository.look(is.path))) continue;
      if (!(await follow(key, is, f))) continue;
      left.delete(is.documentId);
      bySize.set(is.sizeBytes, (bySize.get(is.sizeBytes) ?? 0) - 1);
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
    // Listed before we moved its folder, and compared after: thousands of documents of ours would be noted one by one, and found to be none each.
    if (!(await repository.look(f.file.path))) continue;
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
        from document d join place pl on pl.document_id = d.id join placement p on p.document_id = d.id where d.id = ${was.documentId} and p.state = 'stored' and p.taken_back_by is null for update of p`,
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
      .where(and(eq(placement.documentId, was.documentId), eq(placement.state, "stored")))
      .returning({ id: placement.documentId });
    if (!done[0]) return false;
    if (was.withFolder) await followFolder(tx, key, was.path.slice(0, was.path.lastIndexOf("/")), at.id);
    await writeLines(tx, [
      { verb: "foundMoved", who: PROGRAM, company: about.company, documentId: was.documentId, details: { path: f.file.path } },
    ]);
    return true;
  });
}

/** A record's folder that somebody renamed or moved with all in it: once its last document was met elsewhere, that other folder is the record's own. */
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

/** A document whose file is gone: out of sync, until somebody says what is to become of it. */
async function setAdrift(key: string, g: Gone): Promise<boolean> {
  return db().transaction(async (tx) => {
    const done = await tx.execute<{
      id: number;
      company: string;
      record_id: number | null;
    }>(sql`update placement p set state = 'outOfSync', why = 'gone'
      from document d, place pl where d.id = p.document_id and pl.document_id = p.document_id and pl.path = ${g.path} and p.document_id = ${g.documentId}
        and p.state = 'stored' and p.taken_back_by is null
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

/** A file of ours whose name differs only in capitals or Unicode form: it is called what it is called there. */
export async function respell(documentId: number, folderId: number, name: string): Promise<void> {
  await db()
    .update(placement)
    .set({ name })
    .where(and(eq(placement.documentId, documentId), eq(placement.folderId, folderId), eq(placement.nameFolded, foldName(name))));
}

/** Notes a new or changed file; once it has not changed for a while it is taken. What somebody has decided to leave is left until it changes again. */
export async function enterFinding(
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
