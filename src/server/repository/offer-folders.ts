import { sql } from "drizzle-orm";
import { foldPath } from "#core/filing-plan/legal-name.ts";
import { foldReference, foldText } from "#core/shared/fold-text.ts";
import { db } from "../db/connect.ts";
import { settleFolder } from "../filing-plan/settle-folder.ts";
import { finding } from "../filing-plan/tables.ts";
import { now } from "../ports/clock.ts";

/** Words of a folder's name that are looked up as keys. */
const WORDS_MAX = 8;
/** Records that one folder is tried against. */
const RECORDS_MAX = 20;

/**
 * Folders that somebody made and that no record has: when the filing plan would give a record without a folder this very place, it is offered to
 * that record. Nothing is taken until somebody agrees.
 */
export async function offerFolders(connection: string, paths: readonly string[]): Promise<void> {
  const names = paths.map((path) => {
    const name = path.split("/").at(-1) ?? "";
    const keys = [name, ...name.split(/\s+/)].slice(0, WORDS_MAX).map(foldReference);
    return { path, title: foldText(name), keys: keys.filter((k) => k !== "") };
  });
  if (names.length === 0) return;
  const likely = await db().execute<{ path: string; id: number }>(sql`with named as materialized (
      select x.path, x.title, x.keys from jsonb_to_recordset(${JSON.stringify(names)}::jsonb) as x(path text, title text, keys jsonb))
    select distinct n.path, r.id from named n cross join lateral (
        (select id from record where key_folded in (select jsonb_array_elements_text(n.keys)) limit ${RECORDS_MAX})
        union (select id from record where title_folded = n.title limit ${RECORDS_MAX})) r
      where not exists (select 1 from record_folder f where f.record_id = r.id) order by n.path, r.id`);
  const done = new Set<string>();
  for (const { path, id } of likely.rows) if (!done.has(path) && (await offer(connection, path, id))) done.add(path);
}

async function offer(connection: string, path: string, recordId: number): Promise<boolean> {
  const pathFolded = foldPath(path.split("/"));
  const settled = await settleFolder(db(), recordId, false);
  if (!settled.ok || settled.value.connection !== connection || foldPath(settled.value.segments) !== pathFolded) return false;
  const at = now();
  await db()
    .insert(finding)
    .values({ connection, path, pathFolded, kind: "folder", recordId, state: "open", foundAt: at, changedAt: at })
    .onConflictDoUpdate({ target: [finding.connection, finding.pathFolded, finding.kind], set: { changedAt: at, recordId } });
  return true;
}
