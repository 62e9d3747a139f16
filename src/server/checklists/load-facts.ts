import { type SQL, sql } from "drizzle-orm";
import type { ItemRule } from "#core/checklists/checklist-rules.ts";
import type { ChecklistFacts, CheckedPaper, ItemDecision, OwnItem } from "#core/checklists/checklist-state.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { queryAll, type QueryExecutor, preparedExecutor } from "../db/query-prepared.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";

/** A record with everything its checklist is worked out from. */
export interface RecordFacts {
  readonly id: number;
  readonly type: string;
  readonly parentId: number | null;
  readonly responsibleId: string | null;
  readonly facts: ChecklistFacts;
}
type Rules = ReadonlyMap<string, readonly ItemRule[]>;

/** A record as its checklist needs it. */
type RecordRow = {
  id: number;
  company: string;
  type: string;
  key: string;
  title: string;
  status: string | null;
  date: string | null;
  fields: FieldValues;
  above_id: number | null;
  responsible_id: string | null;
  chain_id: number | null;
};

interface PaperRow extends Record<string, unknown> {
  record_id: number;
  id: number;
  document_type: string;
  document_date: string | null;
  properties: FieldValues | null;
  /** What it is called, where that was asked for. */
  code?: string;
  title?: string;
  is_seen?: boolean;
}

/**
 * Loads what the checklists of some records are worked out from, in a handful of queries however many records there are. Only documents of types that
 * a rule, a condition or a decision speaks of are loaded.
 */
export async function loadFacts(tx: QueryExecutor, ids: readonly number[], rules: Rules): Promise<readonly RecordFacts[]> {
  if (ids.length === 0) return [];
  const list = idArray(ids);
  const recordsAsked =
    tx.execute<RecordRow>(sql`select r.id, r.company, r.type, r.key, r.title, r.status, r.date, r.fields, r.above_id, coalesce(r.responsible_id, parent.responsible_id) as responsible_id, r.chain_id
    from record r left join record parent on parent.id = r.above_id where r.id = any(${list}::bigint[])`);
  const decisionsAsked = askDecisions(tx, list);
  const ownAsked = askOwnItems(tx, list);
  const [records, decisions, own] = await queryAll(tx, [recordsAsked, decisionsAsked, ownAsked]);
  const items = [...new Set(records.rows.map((r) => r.type))].flatMap((t) => rules.get(t) ?? []);
  const tied = decisions.rows.flatMap((d) => (d.document_id === null ? [] : [d.document_id]));
  const ofOwn = own.rows.flatMap((o) => o.document_types);
  const around = await askPapers(tx, {
    list,
    items,
    tied: sql`d.document_type = any(${textArray(ofOwn)}::text[]) or d.id = any(${idArray(tied)}::bigint[])`,
    chained: records.rows.filter((r) => r.chain_id !== null && asksChain(rules.get(r.type) ?? [])).map((r) => r.id),
    more: sql``,
  });
  return gather(records.rows, decisions.rows, own.rows, around);
}

/** A document that counts somewhere, in the words of somebody who may see it; null where they may not. */
export type PaperTitles = ReadonlyMap<number, { readonly code: string; readonly title: string } | null>;

/**
 * The same of one record that is at hand already, with what its documents are called, all of it asked in one go.
 * @param seen Condition on `d` for the documents whose titles may be told.
 */
export async function loadFactsOf(
  row: Omit<RecordRow, "responsible_id" | "above_id">,
  rules: Rules,
  seen: SQL,
): Promise<{ readonly facts: ChecklistFacts; readonly titles: PaperTitles; readonly waivers: readonly Waiver[] }> {
  const list = idArray([row.id]);
  const items = rules.get(row.type) ?? [];
  const [decisions, own, around] = await Promise.all([
    preparedExecutor.execute<DecisionRow & { reason: string | null; by: string | null; at: Date }>(
      sql`select w.record_id, w.item, w.kind, w.document_id, w.reason, u.name as by, w.at from item_decision w left join "user" u on u.id = w.by where w.record_id = ${row.id}`,
    ),
    askOwnItems(preparedExecutor, list),
    askPapers(preparedExecutor, {
      list,
      items,
      tied: sql`d.document_type in (select unnest(o.document_types) from own_item o where o.record_id = ${row.id})
        or d.id in (select w.document_id from item_decision w where w.record_id = ${row.id})`,
      chained: row.chain_id !== null && asksChain(items) ? [row.id] : [],
      more: sql`, d.code, d.title, ${seen} as is_seen`,
    }),
  ]);
  const record = { ...row, above_id: null, responsible_id: null };
  const found = gather([record], decisions.rows, own.rows, around)[0];
  if (!found) throw new Error("one record gives the facts of one record");
  return {
    facts: found.facts,
    titles: new Map(
      [...around.papers, ...around.along].map((p) => [p.id, p.is_seen ? { code: p.code ?? "", title: p.title ?? "" } : null]),
    ),
    waivers: decisions.rows
      .filter((d) => d.kind === "waived")
      .map((d) => ({ item: d.item, reason: d.reason ?? "", by: d.by ?? "", at: new Date(d.at).toISOString() })),
  };
}

/** That an item was waived: why, by whom, when. */
export interface Waiver {
  readonly item: string;
  readonly reason: string;
  readonly by: string;
  readonly at: string;
}

interface DecisionRow extends Record<string, unknown> {
  record_id: number;
  item: string;
  kind: ItemDecision["kind"];
  document_id: number | null;
}
const askDecisions = (tx: QueryExecutor, list: string) =>
  tx.execute<DecisionRow>(sql`select record_id, item, kind, document_id from item_decision where record_id = any(${list}::bigint[])`);

interface OwnItemRow extends Record<string, unknown> {
  record_id: number;
  place: number;
  label: string;
  document_types: string[];
  due_on: string | null;
}
const askOwnItems = (tx: QueryExecutor, list: string) =>
  tx.execute<OwnItemRow>(
    sql`select record_id, place, label, document_types, due_on from own_item where record_id = any(${list}::bigint[]) order by place`,
  );

interface Around {
  readonly papers: readonly PaperRow[];
  readonly along: readonly PaperRow[];
  readonly beside: readonly { readonly record_id: number; readonly type: string }[];
}

/** The documents of some records that items speak of, those along their chains, and which types stand there. */
async function askPapers(
  tx: QueryExecutor,
  what: {
    readonly list: string;
    readonly items: readonly ItemRule[];
    /** Condition on `d` for documents that a decision or an item added by hand speaks of. */
    readonly tied: SQL;
    /** Records whose chain is asked for. */
    readonly chained: readonly number[];
    readonly more: SQL;
  },
): Promise<Around> {
  const { items, chained } = what;
  const asked = new Set(items.flatMap((i) => [...i.documentTypes, ...i.when.flatMap((w) => (w.on === "paper" ? [w.documentType] : []))]));
  // Properties are wide: they come only with documents that are asked for them.
  const asksProperties = new Set(
    items.filter((i) => i.papersThat.length > 0 || i.validity?.kind === "property").flatMap((i) => i.documentTypes),
  );
  const wanted = sql`(d.document_type = any(${textArray([...asked])}::text[]) or ${what.tied}) and d.unfiled_at is null`;
  const columns = sql`d.id, d.document_type, d.document_date, case when d.document_type = any(${textArray([...asksProperties])}::text[]) then d.properties end as properties${what.more}`;
  const papersAsked = tx.execute<PaperRow>(
    sql`select c.record_id, ${columns} from clip c join document d on d.id = c.document_id where c.record_id = any(${what.list}::bigint[]) and ${wanted}`,
  );
  const alongTypes = new Set(items.filter((i) => i.along === "chain").flatMap((i) => i.documentTypes));
  const alongAsked =
    chained.length === 0 || alongTypes.size === 0
      ? { rows: [] }
      : tx.execute<PaperRow>(sql`select distinct on (r.id, d.id) r.id as record_id, ${columns} from record r
            join record beside on beside.chain_id = r.chain_id and beside.id <> r.id join clip c on c.record_id = beside.id join document d on d.id = c.document_id
            where r.id = any(${idArray(chained)}::bigint[]) and d.document_type = any(${textArray([...alongTypes])}::text[]) and d.unfiled_at is null
              and not exists (select 1 from clip mine where mine.record_id = r.id and mine.document_id = d.id)`);
  const besideAsked =
    chained.length === 0
      ? { rows: [] }
      : tx.execute<{ record_id: number; type: string }>(sql`select distinct r.id as record_id, beside.type from record r
            join record beside on beside.chain_id = r.chain_id and beside.id <> r.id where r.id = any(${idArray(chained)}::bigint[])`);
  const [papers, along, beside] = await queryAll(tx, [papersAsked, alongAsked, besideAsked]);
  return { papers: papers.rows, along: along.rows, beside: beside.rows };
}

function gather(
  records: readonly RecordRow[],
  decisions: readonly DecisionRow[],
  own: readonly OwnItemRow[],
  { papers, along, beside }: Around,
): readonly RecordFacts[] {
  const papersOf = groupBy(papers, (p) => p.record_id);
  const alongOf = groupBy(along, (p) => p.record_id);
  const besideOf = groupBy(beside, (b) => b.record_id);
  const decisionsOf = groupBy(decisions, (d) => d.record_id);
  const ownOf = groupBy(own, (o) => o.record_id);
  return records.map((r) => ({
    id: r.id,
    type: r.type,
    parentId: r.above_id,
    responsibleId: r.responsible_id,
    facts: {
      record: { company: r.company, key: r.key, title: r.title, status: r.status, date: r.date, fields: r.fields },
      papers: [...(papersOf.get(r.id) ?? []).map((p) => paperOf(p, true)), ...(alongOf.get(r.id) ?? []).map((p) => paperOf(p, false))],
      chainTypes: (besideOf.get(r.id) ?? []).map((b) => b.type),
      decisions: (decisionsOf.get(r.id) ?? []).map((d): ItemDecision => ({ item: d.item, kind: d.kind, documentId: d.document_id })),
      ownItems: (ownOf.get(r.id) ?? []).map((o): OwnItem => ({
        place: o.place,
        label: o.label,
        documentTypes: o.document_types,
        dueOn: o.due_on,
      })),
    },
  }));
}

const asksChain = (items: readonly ItemRule[]): boolean => items.some((i) => i.along === "chain" || i.when.some((w) => w.on === "chain"));

const paperOf = (row: PaperRow, isOwn: boolean): CheckedPaper => ({
  id: row.id,
  documentType: row.document_type,
  documentDate: row.document_date,
  properties: row.properties ?? {},
  isOwn,
});

function groupBy<T>(rows: readonly T[], by: (row: T) => number): ReadonlyMap<number, readonly T[]> {
  const groups = new Map<number, T[]>();
  for (const row of rows) {
    const group = groups.get(by(row));
    if (group) group.push(row);
    else groups.set(by(row), [row]);
  }
  return groups;
}
