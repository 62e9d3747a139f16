import { eq, sql } from "drizzle-orm";
import { chooseFreeName } from "#core/filing-plan/choose-free-name.ts";
import { decideFileName, decideSubFolder, filePatternOf, type NamedDocument } from "#core/filing-plan/decide-file-name.ts";
import { foldName, foldPath, type NamingLimits, utf8Bytes } from "#core/filing-plan/legal-name.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import type { Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { record } from "../records/tables.ts";
import { loadRules } from "./load-rules.ts";
import { limitsOf } from "./open-repository.ts";
import { asFolderRecord, chooseFree, settleFolder } from "./settle-folder.ts";
import { folder } from "./tables.ts";

/** A document as its place depends on it. */
export interface PlacedDocument extends NamedDocument {
  readonly typeKey: string;
  readonly typePlural: string;
  /** Section of its documents in the record that decides the place. */
  readonly section: string | null;
}

/** Where a document goes: folder, file name, and the whole path. */
export interface SettledPlace {
  readonly connection: string;
  readonly folderId: number | null;
  readonly folder: readonly string[];
  readonly fileName: string;
  readonly path: string;
  readonly nameFolded: string;
  readonly unassigned: boolean;
}

/** First half of the lock under which the names of one folder are given out; the second is the folder's hash. */
const FOLDER_LOCK = 730_005;

/** Until the transaction ends nobody else gives out names in this folder. Side by side they would all choose the same one and try again and again. */
export async function lockNames(tx: Tx, connection: string, folderFolded: string): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(${FOLDER_LOCK}, hashtext(${`${connection}/${folderFolded}`}))`);
}

/**
 * Decides a document's place below a record, free of every other document's place and record's folder. With `keep` the folders are
 * entered; the placement row itself is the caller's. Refuses no-folder-rule, path-too-long.
 */
export async function settlePlace(
  tx: Tx,
  recordId: number,
  document: PlacedDocument,
  ending: string,
  keep: boolean,
): Promise<Result<SettledPlace>> {
  const settled = await settleFolder(tx, recordId, keep);
  if (!settled.ok) return settled;
  const { connection, unassigned } = settled.value;
  const limits = await limitsOf(connection);
  const row = (await tx.select().from(record).where(eq(record.id, recordId)))[0];
  const rule = row ? (await loadRules(tx, [row.type])).get(row.type) : undefined;
  if (!row || !rule) return refuse("no-folder-rule");
  const wanted = decideFileName(filePatternOf(rule.rule, document.typeKey), document, asFolderRecord(row), ending, limits);
  const within = decideSubFolder(rule.rule, document, limits);
  const at = within.length === 0 ? settled.value : await settleWithin(tx, recordId, settled.value, within, limits, keep);
  const folderFolded = foldPath(at.segments);
  if (keep) await lockNames(tx, connection, folderFolded);
  const fileName = chooseFreeName(wanted, ending, await namesTaken(tx, connection, folderFolded), limits);
  const path = [...at.segments, fileName].join("/");
  if (utf8Bytes(path) > limits.pathBytesMax) return refuse("path-too-long");
  return ok({ connection, folderId: at.id, folder: at.segments, fileName, path, nameFolded: foldName(fileName), unassigned });
}

/** Folded names of all that stands in a folder by our own knowledge: files, pointers, folders. */
export async function namesTaken(tx: Tx, connection: string, folderFolded: string): Promise<ReadonlySet<string>> {
  const below = folderFolded === "" ? "" : `${folderFolded}/`;
  const rows = await tx.execute<{ name: string }>(sql`
    select p.name_folded as name from placement p join folder f on f.id = p.folder_id where f.connection = ${connection} and f.path_folded = ${folderFolded}
    union all select p.name_folded from pointer p join folder f on f.id = p.folder_id where f.connection = ${connection} and f.path_folded = ${folderFolded}
    union all select split_part(substr(f.path_folded, ${below.length + 1}), '/', 1) from folder f where f.connection = ${connection}
      and f.path_folded >= ${below} and f.path_folded < ${below === "" ? "\u{10FFFF}" : `${folderFolded}0`}`);
  return new Set(rows.rows.map((r) => r.name));
}

/** A folder within a record's folder; entered with `keep`. */
async function settleWithin(
  tx: Tx,
  recordId: number,
  own: { readonly connection: string; readonly segments: readonly string[] },
  within: readonly string[],
  limits: NamingLimits,
  keep: boolean,
): Promise<{ readonly id: number | null; readonly segments: readonly string[] }> {
  const wanted = [...own.segments, ...within];
  for (;;) {
    const there = (
      await tx
        .select({ id: folder.id, recordId: folder.recordId, kind: folder.kind, path: folder.path })
        .from(folder)
        .where(sql`connection = ${own.connection} and path_folded = ${foldPath(wanted)}`)
    )[0];
    if (there?.recordId === recordId && there.kind === "within") return { id: there.id, segments: there.path.split("/") };
    // Another record's own folder may have the name: then ours gets a number.
    const chosen = there ? await chooseFree(tx, own.connection, wanted, null, limits) : wanted;
    if (!keep) return { id: null, segments: chosen };
    const made = await tx
      .insert(folder)
      .values({
        recordId,
        connection: own.connection,
        path: chosen.join("/"),
        pathFolded: foldPath(chosen),
        kind: "within",
        ruleStamp: "",
        madeAt: now(),
      })
      .onConflictDoNothing()
      .returning({ id: folder.id });
    if (made[0]) return { id: made[0].id, segments: chosen };
  }
}
