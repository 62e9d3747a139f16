import { sql } from "drizzle-orm";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";

/** A document whose file in the repository is gone or was changed. */
export interface OutOfSyncDocument {
  readonly code: string;
  readonly title: string;
  readonly why: string | null;
  readonly record: { readonly company: string; readonly type: string; readonly key: string; readonly title: string };
}

/** Documents listed; of more only the number is said. */
const LISTED_MAX = 20;

/** Documents out of sync on records that a person is responsible for, newest first. Only what the person may see. */
export async function listOutOfSync(
  actor: Actor,
  company?: string,
): Promise<{ readonly items: readonly OutOfSyncDocument[]; readonly total: number }> {
  const { rows } = await db().execute<OutOfSyncDocument & { total: number } & Record<string, unknown>>(sql`
    select x.code, x.title, x.why, x.record, count(*) over () as total from (
      select distinct on (d.id) d.id, d.code, d.title, p.why,
        json_build_object('company', r.company, 'type', r.type, 'key', r.key, 'title', r.title) as record
      from placement p join document d on d.id = p.document_id join clip c on c.document_id = d.id join record r on r.id = c.record_id
      left join record parent on parent.id = r.above_id
      where p.state = 'outOfSync' and d.unfiled_at is null and coalesce(r.responsible_id, parent.responsible_id) = ${actor.id}
        and ${company === undefined ? sql`true` : sql`d.company = ${company}`}
        and ${await documentFilter(actor, "see", sql`d.acl_id`)} and ${recordFilter(actor, "see", sql`r`)}
      order by d.id, c.position) x
    order by x.id desc limit ${LISTED_MAX}`);
  return { items: rows.map(({ code, title, why, record }) => ({ code, title, why, record })), total: Number(rows[0]?.total ?? 0) };
}
