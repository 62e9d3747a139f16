import { createHash } from "node:crypto";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { and, eq, sql } from "drizzle-orm";
import { chooseFreeName } from "#core/filing-plan/choose-free-name.ts";
import { endingOf, foldName } from "#core/filing-plan/legal-name.ts";
import { documentCodeOf, parseSha256 } from "#core/shared/brand.ts";
import { clip } from "../clips/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { type ConnectionOptions, connectionOptionsSchema, limitsOf, openRepository } from "../filing-plan/open-repository.ts";
import { lockNames, namesTaken } from "../filing-plan/settle-place.ts";
import { settleFolder } from "../filing-plan/settle-folder.ts";
import { isUnderWay } from "../filing-plan/lock-settled-folder.ts";
import { connection, folder, place, pointer } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { systemCode } from "../ports/system-code.ts";
import { config } from "../settings/config.ts";

/** Why one goes that is to be made again, of another kind or under another name. */
const AGAIN = "again";
/** Further places looked at in one go. */
const AT_ONCE = 1000;

/**
 * Enters the further places of a document: the folders of the records it is clipped to beside the first, as its connection is set. Those that are no
 * longer wanted are marked to go. Call in the transaction that changes the clips; the worker makes and removes the files.
 */
export async function wantPointers(tx: Tx, documentId: number): Promise<void> {
  const at = (await tx.select().from(place).where(eq(place.documentId, documentId)))[0];
  if (!at) return;
  const options = await optionsNow(tx, at.connection);
  const others = await tx
    .select({ recordId: clip.recordId })
    .from(clip)
    .where(and(eq(clip.documentId, documentId), sql`${clip.position} > 0`));
  const wanted: number[] = [];
  if (options.furtherPlaces !== "none")
    for (const { recordId } of others) {
      const settled = await settleFolder(tx, recordId, true);
      if (settled.ok && settled.value.id !== null && settled.value.id !== at.folderId) wanted.push(settled.value.id);
    }
  for (const id of wanted) await wantPointer(tx, documentId, id);
  await tx.execute(sql`update pointer p set state = 'unwanted' from folder f where f.id = p.folder_id and f.kind <> 'shelf' and p.document_id = ${documentId}
    and not (p.folder_id = any(${`{${wanted.join(",")}}`}::bigint[]))`);
  await addJob(tx, "pointers", {}, { key: "pointers" });
}

/** A connection's options as they are now: what is remembered may be two seconds old, and this is asked for because they changed. */
async function optionsNow(tx: Tx, key: string): Promise<ConnectionOptions> {
  const row = (await tx.select({ options: connection.options }).from(connection).where(eq(connection.key, key)))[0];
  return connectionOptionsSchema.parse(row?.options ?? {});
}

/** Goes through all documents of a connection that have further places or might have them, after what stands there was changed. */
export async function rewritePointers(key: string): Promise<void> {
  for (let after = 0; ;) {
    const { rows } = await db().execute<{ id: number }>(sql`select distinct pl.document_id as id from place pl
      where pl.connection = ${key} and pl.document_id > ${after} and (exists (select 1 from clip c where c.document_id = pl.document_id and c.position > 0)
        or exists (select 1 from pointer p where p.document_id = pl.document_id)) order by 1 limit ${AT_ONCE}`);
    for (const { id } of rows)
      await db().transaction(async (tx) => {
        await wantPointers(tx, id);
        const shelved = await tx.execute<{ folder_id: number }>(
          sql`select p.folder_id from pointer p join folder f on f.id = p.folder_id where f.kind = 'shelf' and p.document_id = ${id} and p.state <> 'unwanted'`,
        );
        for (const { folder_id } of shelved.rows) await wantPointer(tx, id, folder_id);
      });
    const last = rows.at(-1);
    if (rows.length < AT_ONCE || !last) return;
    after = last.id;
  }
}

/** After a plan has moved things: links lead where their documents are now, and further places are called as their documents are. */
export async function pointAfterMoves(tx: Tx, planId: string): Promise<void> {
  const changed = await tx.execute(sql`update pointer p set state = 'unwanted', why = ${AGAIN} from move_step s
    where s.plan_id = ${planId} and s.kind = 'file' and s.document_id = p.document_id and p.state in ('there','failed') returning 1`);
  // Which links cross a folder that moved is not worth finding out: a link that is right already is only looked at.
  const links =
    await tx.execute(sql`update pointer p set state = 'wanted' from folder f where f.id = p.folder_id and p.kind = 'link' and p.state = 'there'
    and f.connection in (select to_connection from move_step where plan_id = ${planId} and kind = 'folder') returning 1`);
  if ((changed.rowCount ?? 0) + (links.rowCount ?? 0) > 0) await addJob(tx, "pointers", {}, { key: "pointers" });
}

/** Enters one further place of a document. */
export async function wantPointer(tx: Tx, documentId: number, folderId: number): Promise<void> {
  const at = (await tx.select().from(place).where(eq(place.documentId, documentId)))[0];
  const target = (await tx.select().from(folder).where(eq(folder.id, folderId)))[0];
  if (!at || !target || at.folderId === folderId) return;
  const [options, repository] = [await optionsNow(tx, target.connection), await openRepository(target.connection)];
  const kind = options.furtherPlaces === "link" && repository.powers.links && at.connection === target.connection ? "link" : "pointer";
  const known = (
    await tx
      .select()
      .from(pointer)
      .where(and(eq(pointer.documentId, documentId), eq(pointer.folderId, folderId)))
  )[0];
  if (known && known.state !== "unwanted" && known.kind === kind) return;
  if (known && known.kind !== kind) {
    // The other kind goes first; then it is entered again.
    await tx
      .update(pointer)
      .set({ state: "unwanted", why: AGAIN })
      .where(and(eq(pointer.documentId, documentId), eq(pointer.folderId, folderId)));
    return;
  }
  await lockNames(tx, target.connection, target.pathFolded);
  const ending = kind === "link" ? endingOf(at.name) : ".url";
  const bare = at.name.slice(0, at.name.length - endingOf(at.name).length) + ending;
  const name =
    known?.name ??
    chooseFreeName(bare, ending, await namesTaken(tx, target.connection, target.pathFolded), await limitsOf(target.connection));
  await tx
    .insert(pointer)
    .values({ documentId, folderId, name, nameFolded: foldName(name), kind, state: "wanted" })
    .onConflictDoUpdate({ target: [pointer.documentId, pointer.folderId], set: { state: "wanted", kind } });
}

/** What a pointer file holds: an internet shortcut, which every desktop opens. It leads to the document's page. */
export function pointerText(documentId: number): string {
  return `[InternetShortcut]\r\nURL=${config().url}/documents/${documentCodeOf(documentId)}\r\n`;
}

/** Makes the links and pointer files that are wanted and removes those that are not. One that cannot be made says why; the others go on. */
export async function carryPointers(): Promise<void> {
  const due = await db().execute<{
    document_id: number;
    folder_id: number;
    name: string;
    kind: string;
    state: string;
    why: string | null;
    connection: string;
    path: string;
    target: string | null;
    target_state: string | null;
  }>(sql`select p.document_id, p.folder_id, p.name, p.kind, p.state, p.why, f.connection, f.path, pl.path as target, pl.state as target_state
    from pointer p join folder f on f.id = p.folder_id left join place pl on pl.document_id = p.document_id where p.state in ('wanted','unwanted') and not ${isUnderWay(sql`f.id`)}
      and not (p.state = 'wanted' and p.kind = 'link' and coalesce(pl.state, 'waiting') = 'waiting') limit ${AT_ONCE}`);
  let again = due.rows.length === AT_ONCE;
  const local = await mkdtemp(path.join(os.tmpdir(), "amber-pointer-"));
  try {
    for (const p of due.rows) {
      const mine = and(eq(pointer.documentId, p.document_id), eq(pointer.folderId, p.folder_id));
      const at = p.path === "" ? p.name : `${p.path}/${p.name}`;
      const text = pointerText(p.document_id);
      const sha256 = parseSha256(createHash("sha256").update(text).digest("hex"));
      try {
        const repository = await openRepository(p.connection);
        if (p.state === "unwanted") {
          if (p.kind === "link") await repository.unlink(at);
          else await repository.remove(at, sha256);
          await db().delete(pointer).where(mine);
          if (p.why === AGAIN) await db().transaction((tx) => wantPointer(tx, p.document_id, p.folder_id));
          again ||= p.why === AGAIN;
          continue;
        }
        if (p.kind === "link") {
          if (p.target === null) continue;
          if ((await repository.link(at, p.target)) === "taken") throw Object.assign(new Error("taken"), { code: "taken" });
        } else {
          const file = path.join(local, "pointer.url");
          await writeFile(file, text);
          if ((await repository.put(at, file, sha256)).kind === "taken") throw Object.assign(new Error("taken"), { code: "taken" });
        }
        await db().update(pointer).set({ state: "there", why: null }).where(mine);
      } catch (error) {
        const why = systemCode(error) ?? "unknown";
        if (why === "repository-unreachable") throw error;
        await db().update(pointer).set({ state: "failed", why }).where(mine);
      }
    }
  } finally {
    await rm(local, { recursive: true, force: true });
  }
  if (again) await addJob(db(), "pointers", {}, { key: "pointers" });
}
