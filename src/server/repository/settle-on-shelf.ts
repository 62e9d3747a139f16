import { eq, sql } from "drizzle-orm";
import { chooseFreeName } from "#core/filing-plan/choose-free-name.ts";
import { decideFileName } from "#core/filing-plan/decide-file-name.ts";
import { foldName, utf8Bytes } from "#core/filing-plan/legal-name.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import type { Tx } from "../db/connect.ts";
import { limitsOf } from "../filing-plan/open-repository.ts";
import { lockNames, namesTaken, type PlacedDocument, type SettledPlace } from "../filing-plan/settle-place.ts";
import { lockSettledFolder } from "../filing-plan/lock-settled-folder.ts";
import { folder } from "../filing-plan/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { shelfFilter } from "./browse.ts";

type Shelf = typeof folder.$inferSelect;

/** A shelf that a person may put documents on; null when there is none for them. */
export async function findShelf(tx: Tx, actor: Actor, id: number): Promise<Shelf | null> {
  const seen = await tx.execute<{ id: number }>(sql`select f.id from folder f where f.id = ${id} and ${shelfFilter(actor, "file")}`);
  if (!seen.rows[0]) return null;
  return (await tx.select().from(folder).where(eq(folder.id, id)))[0] ?? null;
}

/** Decides the place of a document of no record: on its shelf, under its title, free of every other there. Refuses not-found, path-too-long. */
export async function settleOnShelf(
  tx: Tx,
  shelf: Shelf | null,
  document: PlacedDocument,
  ending: string,
  keep: boolean,
): Promise<Result<SettledPlace>> {
  const at = shelf && keep ? await lockSettledFolder(tx, shelf.id) : shelf;
  if (!at) return refuse("not-found");
  const limits = await limitsOf(at.connection);
  if (keep) await lockNames(tx, at.connection, at.pathFolded);
  const wanted = decideFileName("{title}", document, null, ending, limits);
  const fileName = chooseFreeName(wanted, ending, await namesTaken(tx, at.connection, at.pathFolded), limits);
  const path = `${at.path}/${fileName}`;
  if (utf8Bytes(path) > limits.pathBytesMax) return refuse("path-too-long");
  return ok({
    connection: at.connection,
    folderId: at.id,
    folder: at.path.split("/"),
    fileName,
    path,
    nameFolded: foldName(fileName),
    unassigned: false,
  });
}
