import { sql, type SQL } from "drizzle-orm";
import { decideSection } from "#core/sections/place-papers.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { allowsRecord } from "#core/access/grants.ts";
import { bitsParameter, classBits } from "../access/class-bits.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { type ChecklistItemAnswer, loadItems } from "../checklists/load-items.ts";
import { queryPrepared, selectPrepared } from "../db/query-prepared.ts";
import { onOneLine } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { folderOutOfStep, type FolderOutOfStep } from "./folder-out-of-step.ts";
import { type RecordSections, sectionsOf } from "../sections/load-tree.ts";
import { openRepository } from "../filing-plan/open-repository.ts";
import { type DraftAnswer, draftOfRecord } from "../drafts/list-drafts.ts";
import { reachedDocuments, parentRecords } from "../reach/reach.ts";
import { findVisibleRecord } from "./find-visible-record.ts";
import { loadDocumentTypes } from "./load-types.ts";
import { record } from "./tables.ts";

export interface RecordRef {
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
}

/** A record with its surroundings and counts, each as this person sees it. */
export interface RecordAnswer extends RecordRef {
  readonly id: number;
  readonly status: string | null;
  readonly date: string | null;
  readonly amount: string | null;
  readonly currency: string | null;
  readonly fields: FieldValues;
  readonly parent: RecordRef | null;
  readonly chain: readonly (RecordRef & { readonly date: string | null; readonly documents: number })[];
  readonly children: readonly { readonly type: string; readonly count: number }[];
  /** `reached`: of other records, seen here by reach. */
  readonly counts: {
    readonly own: number;
    readonly reached: number;
    readonly chain: number;
    readonly parent: number;
    readonly children: number;
  };
  readonly folder: { readonly connection: string; readonly path: string; readonly location: string } | null;
  /** Its folder is not where the filing plan would have it by now; null when it is. */
  readonly outOfStep: FolderOutOfStep | null;
  /** The draft it was made from here; null when the business system made it. */
  readonly draft: DraftAnswer | null;
  /** What documents it must have, as it stands today. */
  readonly checklist: readonly ChecklistItemAnswer[];
  /** Who answers for it; by way of the account above when nobody was named for it itself. */
  readonly responsible: { readonly id: string; readonly name: string; readonly isOwn: boolean } | null;
  /** What its documents stand under; no tree when it has none. */
  readonly sections: RecordSections;
  readonly may: { readonly edit: boolean; readonly file: boolean };
}

/** Records of a chain that are shown. */
const CHAIN_MAX = 60;

/** A record that was called so while it was a draft, and has its number now. */
async function underItsNumber(actor: Actor, type: string, key: string): Promise<typeof record.$inferSelect | null> {
  const rows = await selectPrepared(
    record,
    sql`record.id = (select d.record_id from draft d where d.key = ${key} and d.type = ${type}) and ${recordFilter(actor)}`,
  );
  return rows[0] ?? null;
}

/** Condition on `r` for a record and those along its chain. */
const inChain = (row: { readonly id: number; readonly chainId: number | null }): SQL =>
  row.chainId === null ? sql`r.id = ${row.id}` : sql`r.chain_id = ${row.chainId}`;

/** Loads a record's page. One that was made here is found by what it was called as a draft, too. */
export function loadRecordPage(actor: Actor, type: string, key: string, company?: string): Promise<RecordAnswer | null> {
  return onOneLine(() => loadPage(actor, type, key, company));
}

async function loadPage(actor: Actor, type: string, key: string, company: string | undefined): Promise<RecordAnswer | null> {
  const [found, seen, visibleChildDocuments] = await Promise.all([
    findVisibleRecord(actor, type, key, company),
    documentFilter(actor, "see", sql`d.acl_id`),
    documentFilter(actor, "see", sql`b.acl_id`),
    // Asked with the record, so that all parts of the page have it at hand.
    loadDocumentTypes(),
  ]);
  const row = found ?? (await underItsNumber(actor, type, key));
  if (!row) return null;
  const [parent, chain, children, counts, folders, outOfStep, draft, checklist, responsible, sections] = await Promise.all([
    row.parentId === null
      ? []
      : queryPrepared<RecordRef>(sql`select company, type, key, title from record where id = ${row.parentId} and ${recordFilter(actor)}`),
    row.chainId === null
      ? []
      : queryPrepared<RecordAnswer["chain"][number]>(sql`select r.company, r.type, r.key, r.title, r.date,
        (select count(*) from clip c join document d on d.id = c.document_id where c.record_id = r.id and ${seen}) as documents
      from record r join record_type t on t.key = r.type where r.chain_id = ${row.chainId} and ${recordFilter(actor, "see", sql`r`)} order by t.order, r.date nulls last, r.id limit ${CHAIN_MAX}`),
    queryPrepared<{ type: string; count: number }>(
      sql`select r.type, count(*) as count from record r join record_type t on t.key = r.type where r.above_id = ${row.id} and ${recordFilter(actor, "see", sql`r`)} group by r.type, t.order order by t.order`,
    ),
    queryPrepared<{ own: number; reached: number; chain: number; parent: number; children: number }>(sql`select
      (select count(*) from clip c join document d on d.id = c.document_id where c.record_id = ${row.id} and ${seen}) as own,
      (select count(*) from document d where d.id in (${reachedDocuments(row)}) and ${seen}
        and not exists (select 1 from clip mine where mine.document_id = d.id and mine.record_id = ${row.id})) as reached,
      (select count(distinct c.document_id) from clip c join document d on d.id = c.document_id join record r on r.id = c.record_id
        where ${inChain(row)} and ${seen} and ${recordFilter(actor, "see", sql`r`)}) as chain,
      (select count(distinct c.document_id) from clip c join document d on d.id = c.document_id join record r on r.id = c.record_id
        where r.id in ${parentRecords(row)} and ${seen} and ${recordFilter(actor, "see", sql`r`)}) as parent,
      (select count(*) from beneath_document b where b.record_id = ${row.id} and ${visibleChildDocuments}) as children`),
    queryPrepared<{ connection: string; path: string }>(sql`select connection, path from own_folder where record_id = ${row.id}`),
    folderOutOfStep(row),
    draftOfRecord(actor, row.id),
    loadItems(actor, row),
    loadResponsible(row),
    sectionsOf(row),
  ]);
  const count = counts[0];
  const place = folders[0];
  return {
    id: row.id,
    company: row.company,
    type: row.type,
    key: row.key,
    title: row.title,
    status: row.status,
    date: row.date,
    amount: row.amount,
    currency: row.currency,
    fields: row.fields as FieldValues,
    parent: parent[0] ?? null,
    chain: chain.map((r) => ({ ...r, documents: Number(r.documents) })),
    children: children.map((b) => ({ type: b.type, count: Number(b.count) })),
    counts: {
      own: Number(count?.own ?? 0),
      reached: Number(count?.reached ?? 0),
      chain: Number(count?.chain ?? 0),
      parent: Number(count?.parent ?? 0),
      children: Number(count?.children ?? 0),
    },
    folder: place
      ? { connection: place.connection, path: place.path, location: (await openRepository(place.connection)).locationOf(place.path) }
      : null,
    outOfStep,
    draft,
    checklist,
    responsible,
    sections,
    may: {
      edit: allowsRecord(actor.grants, "edit", row.company, row.type),
      file: allowsRecord(actor.grants, "file", row.company, row.type),
    },
  };
}

async function loadResponsible(row: typeof record.$inferSelect): Promise<RecordAnswer["responsible"]> {
  const rows = await queryPrepared<{ id: string; name: string }>(sql`select u.id, u.name from "user" u
    where u.id = coalesce(${row.responsibleId}::text, (select a.responsible_id from record a where a.id = ${row.parentId}::bigint))`);
  const person = rows[0];
  return person ? { ...person, isOwn: row.responsibleId !== null } : null;
}

export const scopes = ["own", "chain", "parent", "children"] as const;
export type Scope = (typeof scopes)[number];

/** A document in a record's documents. */
export interface RecordDocument {
  readonly code: string;
  readonly title: string;
  readonly documentType: string;
  readonly documentDate: string | null;
  readonly filedAt: string;
  readonly filedBy: string | null;
  readonly source: string | null;
  readonly kind: string | null;
  readonly pages: number | null;
  readonly version: number;
  readonly state: string | null;
  /** Where it stands in the record's sections; of a document of another record, where it would. Null: in none. */
  readonly section: string | null;
  /** Where it stands in the repository. */
  readonly path: string | null;
  /** What was noted on its clip here. */
  readonly note: string | null;
  /** The record it is clipped to, when that is another than the one that was asked for. */
  readonly from: RecordRef | null;
  /** It is clipped to another record, and shown among this one's own because its clip says so. */
  readonly isReached: boolean;
}
type Row = Omit<RecordDocument, "isReached" | "filedAt" | "documentType" | "documentDate" | "filedBy"> & {
  is_own: boolean;
  properties: FieldValues;
  id: number;
  document_type: string;
  document_date: string | null;
  filed_at: Date;
  filed_by: string | null;
} & Record<string, unknown>;

/** Which documents of a list are asked for: so many, of those filed before the one with this id. */
interface PapersPage {
  readonly limit: number;
  readonly before: number | null;
}
interface ListedPapers {
  readonly items: readonly RecordDocument[];
  readonly next: string | null;
}

/** A record's documents: its own with those that it sees by reach, along its chain, of the accounts above it, or of everything beneath it; newest first. Only what the person may see. */
export function listRecordDocuments(
  actor: Actor,
  recordRow: typeof record.$inferSelect,
  scope: Scope,
  page: PapersPage,
): Promise<ListedPapers> {
  return onOneLine(() => listDocuments(actor, recordRow, scope, page));
}

/** The same for a record by company, type and key; null when it is not there for this person. */
export function listDocumentsOf(
  actor: Actor,
  which: { readonly type: string; readonly key: string; readonly company?: string | undefined },
  scope: Scope,
  page: PapersPage,
): Promise<ListedPapers | null> {
  return onOneLine(async () => {
    const [row] = await Promise.all([
      findVisibleRecord(actor, which.type, which.key, which.company),
      classBits(actor, "see"),
      loadDocumentTypes(),
    ]);
    return row && listDocuments(actor, row, scope, page);
  });
}

async function listDocuments(actor: Actor, recordRow: typeof record.$inferSelect, scope: Scope, page: PapersPage): Promise<ListedPapers> {
  const bits = bitsParameter(await classBits(actor, "see"));
  const visible = recordFilter(actor, "see", sql`r`);
  const holders: Readonly<Record<Exclude<Scope, "children">, SQL>> = {
    own: sql`select c.document_id from clip c where c.record_id = ${recordRow.id} union ${reachedDocuments(recordRow)}`,
    chain: sql`select c.document_id from clip c join record r on r.id = c.record_id where ${inChain(recordRow)} and ${visible}`,
    parent: sql`select c.document_id from clip c join record r on r.id = c.record_id where r.id in ${parentRecords(recordRow)} and ${visible}`,
  };
  const until = (id: SQL): SQL => (page.before === null ? sql`true` : sql`${id} < ${page.before}`);
  // Which documents there are is settled first, and kept apart: left to itself the database may walk through all documents for the newest of a few.
  const chosen =
    scope === "children"
      ? sql`select b.document_id as id from beneath_document b where b.record_id = ${recordRow.id} and covers(${bits}, b.acl_id) and ${until(sql`b.document_id`)}
          order by b.document_id desc limit ${page.limit + 1}`
      : sql`select d.id from (select distinct document_id from (${holders[scope]}) held) ids join document d on d.id = ids.document_id
          where covers(${bits}, d.acl_id) and ${until(sql`d.id`)} order by d.id desc limit ${page.limit + 1}`;
  // Of a document clipped to several records, the one asked for comes first, then the first that the person may see.
  const askPapers = (): Promise<readonly Row[]> =>
    queryPrepared<Row>(sql`with chosen as materialized (${chosen}) select d.id, d.code, d.title, d.document_type, d.document_date, d.filed_at, d.properties, u.name as filed_by, mine.section, mine.note, mine.record_id is not null as is_own, d.current_version as version, ct.kind, ct.pages, p.state, f.path || '/' || p.name as path,
      (select a.source from arrival a where a.document_id = d.id order by a.number limit 1) as source,
      (select case when r.id = ${recordRow.id} then null else json_build_object('company', r.company, 'type', r.type, 'key', r.key, 'title', r.title) end
        from clip c join record r on r.id = c.record_id where c.document_id = d.id and ${visible} order by (r.id = ${recordRow.id}) desc, c.position limit 1) as "from"
    from chosen join document d on d.id = chosen.id join document_version v on v.document_id = d.id and v.number = d.current_version join content ct on ct.sha256 = v.sha256
    left join clip mine on mine.document_id = d.id and mine.record_id = ${recordRow.id} left join placement p on p.document_id = d.id left join folder f on f.id = p.folder_id
    left join "user" u on u.id = d.filed_by order by d.id desc`);
  const [rows, { tree }] = await Promise.all([
    askPapers(),
    scope === "children" || scope === "parent" ? { tree: [] } : sectionsOf(recordRow),
  ]);
  const items = rows.slice(0, page.limit).map((r) => ({
    section: r.is_own
      ? r.section
      : decideSection(tree, { documentType: r.document_type, documentDate: r.document_date, properties: r.properties }),
    code: r.code,
    title: r.title,
    documentType: r.document_type,
    documentDate: r.document_date,
    filedAt: new Date(r.filed_at).toISOString(),
    filedBy: r.filed_by,
    source: r.source,
    kind: r.kind,
    pages: r.pages,
    version: r.version,
    state: r.state,
    path: r.path,
    note: r.note,
    from: r.from,
    isReached: scope === "own" && !r.is_own,
  }));
  return { items, next: rows.length > page.limit ? String(rows[page.limit - 1]?.id ?? "") : null };
}
