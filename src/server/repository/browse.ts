import { sql, type SQL } from "drizzle-orm";
import { foldPath } from "#core/filing-plan/legal-name.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { listConnectionsInUse, openRepository } from "../filing-plan/open-repository.ts";
import { isUnderWay } from "../filing-plan/lock-settled-folder.ts";
import { companiesWith } from "#core/access/grants.ts";
import type { Actor } from "../people/load-actor.ts";

/** One line of the tree: a folder, a shelf or a document. */
export interface TreeNode {
  readonly id: string;
  readonly name: string;
  readonly kind: "connection" | "folder" | "record" | "shelf" | "document";
  readonly connection: string;
  readonly path: string;
  /** Folders with documents at and below it; documents in it. */
  readonly folders: number;
  readonly documents: number;
  /** Worst state of what stands in it. */
  readonly state: "stored" | "waiting" | "moving" | "outOfSync" | "failed" | null;
  readonly record: { readonly company: string; readonly type: string; readonly key: string; readonly title: string } | null;
  readonly code: string | null;
  readonly folderId: number | null;
  readonly location: string;
}

/** Lines of one folder that are shown; more are asked for by their name. */
export const NODES_MAX = 1000;
/** Shelves that a person may see. */
export function shelfFilter(actor: Actor, action: "see" | "file" = "see"): SQL {
  const companies = companiesWith(actor.grants, action);
  const confidential = [...new Set(actor.grants.filter((g) => g.actions.includes(action) && g.confidential).map((g) => g.company))];
  const list = (values: readonly string[]): SQL =>
    values.length === 0
      ? sql`(null)`
      : sql`(${sql.join(
          values.map((v) => sql`${v}`),
          sql`, `,
        )})`;
  return sql`(f.kind = 'shelf' and f.company in ${list(companies)} and (not f.is_confidential or f.company in ${list(confidential)}))`;
}

/** Folders that a person may see: those of records they may see, and shelves. */
function seenFolders(actor: Actor): SQL {
  return sql`(${shelfFilter(actor)} or (f.record_id is not null and exists (select 1 from record r where r.id = f.record_id and ${recordFilter(actor, "see", sql`r`)})))`;
}

/**
 * The next level of the tree below a path of a connection: names of folders with how many are below, and the documents that stand right there. Without
 * a connection: the connections. Only what the person may see; a folder that holds nothing of theirs is not there. `q` narrows the names.
 */
export async function listTree(
  actor: Actor,
  at: { readonly connection?: string | undefined; readonly path: string; readonly q?: string | undefined },
): Promise<{ items: readonly TreeNode[]; truncated: boolean }> {
  const seen = seenFolders(actor);
  if (at.connection === undefined) {
    const counts = await db().execute<{ connection: string; folders: number }>(
      sql`select f.connection, count(*)::int as folders from folder f where ${seen} group by f.connection`,
    );
    const items = (await listConnectionsInUse()).map((c) => ({
      id: c.key,
      name: c.label,
      kind: "connection" as const,
      connection: c.key,
      path: "",
      folders: counts.rows.find((n) => n.connection === c.key)?.folders ?? 0,
      documents: 0,
      state: null,
      record: null,
      code: null,
      folderId: null,
      location: "",
    }));
    return { items, truncated: false };
  }
  const connection = at.connection;
  const folded = at.path === "" ? "" : foldPath(at.path.split("/"));
  const below = at.path === "" ? sql`true` : sql`f.path_folded >= ${`${folded}/`} and f.path_folded < ${`${folded}0`}`;
  const from = at.path === "" ? 1 : at.path.length + 2;
  const name = sql`split_part(substr(f.path, ${from}), '/', 1)`;
  const like = at.q ? sql`and ${name} ilike ${`%${at.q.replace(/[\\%_]/g, (c) => `\\${c}`)}%`}` : sql``;
  const bits = await documentFilter(actor, "see", sql`d.acl_id`);
  const [folders, documents, repository] = await Promise.all([
    db().execute<{
      name: string;
      folders: number;
      id: number | null;
      kind: string | null;
      documents: number;
      state: TreeNode["state"];
      company: string | null;
      type: string;
      key: string;
      title: string;
    }>(sql`with named as (select ${name} as name, count(*)::int as folders, min(f.id) filter (where f.path = ${at.path === "" ? "" : `${at.path}/`} || ${name}) as own
        from folder f where f.connection = ${connection} and ${below} and f.path <> ${at.path} and ${seen} ${like} group by 1 order by 1 limit ${NODES_MAX + 1})
      select n.name, n.folders, own.id, own.kind, coalesce(p.documents, 0) as documents, p.state, r.company, r.type, r.key, r.title
      from named n left join folder own on own.id = n.own left join record r on r.id = own.record_id
      left join lateral (select count(*)::int as documents, case when bool_or(pl.state = 'failed') then 'failed' when bool_or(pl.state = 'outOfSync') then 'outOfSync'
          when bool_or(pl.state = 'moving') then 'moving' when bool_or(pl.state = 'waiting') then 'waiting' when count(*) > 0 then 'stored' end as state
        from place pl join document d on d.id = pl.document_id where pl.folder_id = n.own and ${bits}) p on true order by n.name`),
    db().execute<{ code: string; name: string; state: TreeNode["state"]; title: string; folder_id: number; further: boolean }>(sql`
      select d.code, pl.name, pl.state, d.title, pl.folder_id, false as further from place pl join document d on d.id = pl.document_id
        where pl.connection = ${connection} and pl.folder_path = ${at.path} and ${bits} ${at.q ? sql`and pl.name ilike ${`%${at.q}%`}` : sql``}
      union all select d.code, x.name, case x.state when 'there' then 'stored' when 'failed' then 'failed' else 'waiting' end, d.title, x.folder_id, true
        from pointer x join folder f on f.id = x.folder_id join document d on d.id = x.document_id
        where f.connection = ${connection} and f.path = ${at.path} and x.state <> 'unwanted' and ${bits}
      order by 2 limit ${NODES_MAX + 1}`),
    openRepository(connection),
  ]);
  const inside = (n: string): string => (at.path === "" ? n : `${at.path}/${n}`);
  const items: TreeNode[] = folders.rows.slice(0, NODES_MAX).map((f) => ({
    id: `${connection}/${inside(f.name)}`,
    name: f.name,
    kind: f.kind === "record" || f.kind === "shelf" ? f.kind : "folder",
    connection,
    path: inside(f.name),
    folders: f.folders,
    documents: f.documents,
    state: f.state,
    record: f.company === null || f.kind !== "record" ? null : { company: f.company, type: f.type, key: f.key, title: f.title },
    code: null,
    folderId: f.id,
    location: repository.locationOf(inside(f.name)),
  }));
  for (const d of documents.rows.slice(0, NODES_MAX))
    items.push({
      id: `${connection}/${inside(d.name)}#${d.code}`,
      name: d.name,
      kind: "document",
      connection,
      path: inside(d.name),
      folders: 0,
      documents: 1,
      state: d.state,
      record: null,
      code: d.code,
      folderId: d.folder_id,
      location: repository.locationOf(inside(d.name)),
    });
  return { items, truncated: folders.rows.length > NODES_MAX || documents.rows.length > NODES_MAX };
}

/** One folder of a record, with how its documents stand. */
export interface LocationAnswer {
  readonly id: number;
  readonly connection: string;
  readonly path: string;
  readonly location: string;
  readonly record: { readonly company: string; readonly type: string; readonly key: string; readonly title: string };
  readonly documents: number;
  readonly bytes: number;
  readonly state: string;
  readonly checkedAt: string | null;
}

export const locationSorts = ["path", "documents", "bytes", "checkedAt"] as const;

/** All folders of all records that a person may see, with state, size and last proof. */
export async function listLocations(
  actor: Actor,
  wish: {
    readonly q?: string | undefined;
    readonly connection?: string | undefined;
    readonly type?: string | undefined;
    readonly company?: string | undefined;
    readonly state?: string | undefined;
    readonly sort: (typeof locationSorts)[number];
    readonly down: boolean;
    readonly limit: number;
    readonly offset: number;
  },
): Promise<{ items: readonly LocationAnswer[]; total: number }> {
  const parts: SQL[] = [sql`f.kind <> 'shelf'`, recordFilter(actor, "see", sql`r`)];
  if (wish.connection) parts.push(sql`f.connection = ${wish.connection}`);
  if (wish.type) parts.push(sql`r.type = ${wish.type}`);
  if (wish.company) parts.push(sql`r.company = ${wish.company}`);
  if (wish.q) {
    const pattern = `%${wish.q.replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
    parts.push(sql`(f.path ilike ${pattern} or r.title ilike ${pattern} or r.key ilike ${pattern})`);
  }
  const bits = await documentFilter(actor, "see", sql`d.acl_id`);
  const rows = sql`select f.id, f.connection, f.path, r.company, r.type, r.key, r.title, count(d.id)::int as documents, coalesce(sum(p.seen_bytes), 0)::float8 as bytes, min(p.checked_at) as checked_at,
      case when ${isUnderWay(sql`f.id`)} then 'moving' when bool_or(p.state = 'failed' and d.id is not null) then 'failed' when bool_or(p.state = 'outOfSync' and d.id is not null) then 'outOfSync'
        when bool_or(p.state in ('waiting','moving') and d.id is not null) then 'waiting' when count(d.id) = 0 then 'empty' else 'stored' end as state
    from folder f join record r on r.id = f.record_id left join placement p on p.folder_id = f.id left join document d on d.id = p.document_id and ${bits}
    where ${sql.join(parts, sql` and `)} group by f.id, r.id`;
  const narrowed = wish.state ? sql`select * from (${rows}) x where x.state = ${wish.state}` : sql`select * from (${rows}) x`;
  const order = { path: sql`x.path`, documents: sql`x.documents`, bytes: sql`x.bytes`, checkedAt: sql`x.checked_at` }[wish.sort];
  const [page, total] = await Promise.all([
    db().execute<{
      id: number;
      connection: string;
      path: string;
      company: string;
      type: string;
      key: string;
      title: string;
      documents: number;
      bytes: number;
      checked_at: Date | null;
      state: string;
    }>(
      sql`${narrowed} order by ${order} ${wish.down ? sql`desc nulls last` : sql`asc nulls last`}, x.id limit ${wish.limit} offset ${wish.offset}`,
    ),
    db().execute<{ n: number }>(
      wish.state
        ? sql`select count(*)::int as n from (${narrowed}) y`
        : sql`select count(*)::int as n from folder f join record r on r.id = f.record_id where ${sql.join(parts, sql` and `)}`,
    ),
  ]);
  const repositories = new Map(
    await Promise.all([...new Set(page.rows.map((r) => r.connection))].map(async (key) => [key, await openRepository(key)] as const)),
  );
  return {
    total: total.rows[0]?.n ?? 0,
    items: page.rows.map((r) => ({
      id: r.id,
      connection: r.connection,
      path: r.path,
      location: repositories.get(r.connection)?.locationOf(r.path) ?? "",
      record: { company: r.company, type: r.type, key: r.key, title: r.title },
      documents: r.documents,
      bytes: r.bytes,
      state: r.state,
      checkedAt: r.checked_at === null ? null : new Date(r.checked_at).toISOString(),
    })),
  };
}

export const locationColumns = [
  "connection",
  "path",
  "location",
  "company",
  "type",
  "key",
  "title",
  "documents",
  "bytes",
  "state",
  "checkedAt",
] as const;
const CSV_PAGE = 1000;

/** Every location that fits, for CSV. */
export async function* eachLocation(actor: Actor, wish: Parameters<typeof listLocations>[1]): AsyncGenerator<Record<string, unknown>> {
  for (let offset = 0; ; offset += CSV_PAGE) {
    const { items } = await listLocations(actor, { ...wish, limit: CSV_PAGE, offset });
    for (const item of items) yield { ...item, ...item.record };
    if (items.length < CSV_PAGE) return;
  }
}
