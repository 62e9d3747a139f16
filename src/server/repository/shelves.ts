import { and, eq, sql } from "drizzle-orm";
import { allowsAnywhere, allowsDocument } from "#core/access/grants.ts";
import { foldPath, legalName, utf8Bytes } from "#core/filing-plan/legal-name.ts";
import type { DocumentCode } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter } from "../access/filters.ts";
import { accessClass } from "../access/tables.ts";
import { db } from "../db/connect.ts";
import { document } from "../documents/tables.ts";
import { limitsOf, openRepository } from "../filing-plan/open-repository.ts";
import { folder, pointer } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { shelfFilter } from "./browse.ts";
import { wantPointer } from "./carry-pointers.ts";

/** A shelf with what a person may know of it. */
export interface ShelfAnswer {
  readonly id: number;
  readonly connection: string;
  readonly path: string;
  readonly company: string;
  readonly isConfidential: boolean;
  /** The place as a person would open it. */
  readonly location: string;
}

/** Makes a shelf, or one on another: its path has the other's in front. Refuses not-allowed, name-taken, path-too-long. */
export async function makeShelf(
  actor: Actor,
  wish: { readonly connection: string; readonly path: string; readonly company: string; readonly isConfidential: boolean },
): Promise<Result<ShelfAnswer>> {
  if (!allowsAnywhere(actor.grants, "plan", wish.company)) return refuse("not-allowed");
  const limits = await limitsOf(wish.connection);
  const segments = wish.path
    .split("/")
    .map((s) => s.trim())
    .filter((s) => s !== "")
    .map((s) => legalName(s, limits));
  if (segments.length === 0) return refuse("bad-input", undefined, [{ path: "path", message: "needs a name" }]);
  if (utf8Bytes(segments.join("/")) > limits.pathBytesMax) return refuse("path-too-long");
  const path = segments.join("/");
  const inRecord = await db().execute(
    sql`select 1 from folder f where f.connection = ${wish.connection} and f.kind <> 'shelf' and ${foldPath(segments)} like f.path_folded || '/%' limit 1`,
  );
  if (inRecord.rows.length > 0) return refuse("name-taken", "it would be inside a record's folder");
  const made = await db()
    .insert(folder)
    .values({
      recordId: null,
      connection: wish.connection,
      path,
      pathFolded: foldPath(segments),
      kind: "shelf",
      ruleStamp: "",
      company: wish.company,
      isConfidential: wish.isConfidential,
      madeAt: now(),
    })
    .onConflictDoNothing()
    .returning();
  if (!made[0]) return refuse("name-taken", path);
  await (await openRepository(wish.connection)).makeFolder(path);
  return ok(await shelfOf(made[0]));
}

/** Renames or moves a shelf with all on it, or changes who sees it. Refuses not-found, not-allowed, name-taken, still-there where folders cannot be moved. */
export async function changeShelf(
  actor: Actor,
  id: number,
  wish: { readonly path?: string | undefined; readonly company?: string | undefined; readonly isConfidential?: boolean | undefined },
): Promise<Result<ShelfAnswer>> {
  const found = (await db().execute<{ id: number }>(sql`select f.id from folder f where f.id = ${id} and ${shelfFilter(actor)}`)).rows[0];
  const row = found ? (await db().select().from(folder).where(eq(folder.id, id)))[0] : undefined;
  if (!row) return refuse("not-found");
  if (!allowsAnywhere(actor.grants, "plan", row.company ?? undefined)) return refuse("not-allowed");
  if (wish.company !== undefined && !allowsAnywhere(actor.grants, "plan", wish.company)) return refuse("not-allowed");
  if (wish.company !== undefined || wish.isConfidential !== undefined)
    await db()
      .update(folder)
      .set({ company: wish.company ?? row.company, isConfidential: wish.isConfidential ?? row.isConfidential })
      .where(eq(folder.id, id));
  if (wish.path !== undefined && wish.path !== row.path) {
    const limits = await limitsOf(row.connection);
    const segments = wish.path
      .split("/")
      .map((s) => s.trim())
      .filter((s) => s !== "")
      .map((s) => legalName(s, limits));
    const to = segments.join("/");
    if (to === "" || to.startsWith(`${row.path}/`))
      return refuse("bad-input", undefined, [{ path: "path", message: "needs a different location" }]);
    const repository = await openRepository(row.connection);
    const taken = await db().execute(
      sql`select 1 from folder where connection = ${row.connection} and path_folded = ${foldPath(segments)} and id <> ${id}`,
    );
    if (taken.rows.length > 0) return refuse("name-taken", to);
    if (!repository.powers.renameFolders)
      return refuse("still-there", "folders cannot be renamed in a bucket; create a new shelf and put the documents on it");
    const outcome = await repository.moveFolder(row.path, to);
    if (outcome === "taken") return refuse("name-taken", to);
    await db().transaction(async (tx) => {
      const [was, is] = [row.pathFolded, foldPath(segments)];
      await tx.execute(sql`update folder set path = ${to} || substr(path, ${row.path.length + 1}), path_folded = ${is} || substr(path_folded, ${was.length + 1})
        where connection = ${row.connection} and (id = ${id} or path_folded >= ${`${was}/`} and path_folded < ${`${was}0`})`);
    });
  }
  const after = (await db().select().from(folder).where(eq(folder.id, id)))[0];
  return after ? ok(await shelfOf(after)) : refuse("not-found");
}

/** Puts a document on a shelf beside where it stands, or takes it off again. The file is stored once. */
export async function putOnShelf(actor: Actor, code: DocumentCode, shelfId: number, on: boolean): Promise<Result<ShelfAnswer>> {
  const filter = await documentFilter(actor);
  return db().transaction(async (tx) => {
    const found = (
      await tx
        .select({ document, cls: accessClass })
        .from(document)
        .innerJoin(accessClass, eq(accessClass.id, document.aclId))
        .where(sql`${eq(document.code, code)} and ${document.unfiledAt} is null and ${filter}`)
    )[0];
    const shelf = (
      await tx.execute<{ id: number }>(sql`select f.id from folder f where f.id = ${shelfId} and ${shelfFilter(actor, "file")}`)
    ).rows[0];
    if (!found || !shelf) return refuse("not-found");
    if (!allowsDocument(actor.grants, "file", found.cls)) return refuse("not-allowed");
    const row = (await tx.select().from(folder).where(eq(folder.id, shelfId)))[0];
    if (!row) return refuse("not-found");
    if (on) await wantPointer(tx, found.document.id, shelfId);
    else
      await tx
        .update(pointer)
        .set({ state: "unwanted" })
        .where(and(eq(pointer.documentId, found.document.id), eq(pointer.folderId, shelfId)));
    await addJob(tx, "pointers", {}, { key: "pointers" });
    await writeLines(tx, [
      {
        verb: on ? "shelved" : "unshelved",
        who: actor.id,
        company: found.document.company,
        documentId: found.document.id,
        details: { path: row.path },
      },
    ]);
    return ok(await shelfOf(row));
  });
}

/** Shelves that a person may see, by path. */
export async function listShelves(actor: Actor): Promise<readonly ShelfAnswer[]> {
  const rows = await db().execute<{ id: number; connection: string; path: string; company: string; is_confidential: boolean }>(
    sql`select f.id, f.connection, f.path, f.company, f.is_confidential from folder f where ${shelfFilter(actor)} order by f.path limit 500`,
  );
  return Promise.all(
    rows.rows.map(async (r) => ({
      id: r.id,
      connection: r.connection,
      path: r.path,
      company: r.company,
      isConfidential: r.is_confidential,
      location: (await openRepository(r.connection)).locationOf(r.path),
    })),
  );
}

async function shelfOf(row: typeof folder.$inferSelect): Promise<ShelfAnswer> {
  const { id, connection, path, isConfidential } = row;
  const location = (await openRepository(connection)).locationOf(path);
  return { id, connection, path, company: row.company ?? "", isConfidential, location };
}
