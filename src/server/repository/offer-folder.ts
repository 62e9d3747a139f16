import { sql } from "drizzle-orm";
import { foldPath } from "#core/filing-plan/legal-name.ts";
import { foldText } from "#core/shared/fold-text.ts";
import { db } from "../db/connect.ts";
import { settleFolder } from "../filing-plan/settle-folder.ts";
import { finding } from "../filing-plan/tables.ts";
import { now } from "../ports/clock.ts";
import { textArray } from "../db/sql-arrays.ts";

/** Words of a folder's name that are looked up as keys. */
const WORDS_MAX = 8;

/**
 * A folder that somebody made and that no record has: when the filing plan would give a record without a folder this very place, it is offered to
 * that record. Nothing is taken until somebody agrees.
 */
export async function offerFolder(connection: string, path: string): Promise<void> {
  const name = path.split("/").at(-1) ?? "";
  const keys = [name, ...name.split(/\s+/)].slice(0, WORDS_MAX);
  const likely = await db().execute<{
    id: number;
  }>(sql`select r.id from record r where (r.key = any(${textArray(keys)}::text[]) or r.title_folded = ${foldText(name)})
    and not exists (select 1 from folder f where f.record_id = r.id) limit 20`);
  for (const { id } of likely.rows) {
    const settled = await settleFolder(db(), id, false);
    if (!settled.ok || settled.value.connection !== connection || foldPath(settled.value.segments) !== foldPath(path.split("/"))) continue;
    const at = now();
    await db()
      .insert(finding)
      .values({
        connection,
        path,
        pathFolded: foldPath(path.split("/")),
        kind: "folder",
        recordId: id,
        state: "open",
        foundAt: at,
        changedAt: at,
      })
      .onConflictDoUpdate({ target: [finding.connection, finding.pathFolded, finding.kind], set: { changedAt: at, recordId: id } });
    return;
  }
}
