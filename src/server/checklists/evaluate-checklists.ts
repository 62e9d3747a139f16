import { type SQL, sql } from "drizzle-orm";
import type { ItemRule } from "#core/checklists/checklist-rules.ts";
import type { ChecklistFacts } from "#core/checklists/checklist-state.ts";
import { askedPapers, askedRecord, type ChecklistDigest, digestRules, type PaperDigest } from "#core/checklists/checklist-digest.ts";
import { recordBasics } from "#core/records/condition.ts";
import type { Tx } from "../db/connect.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { loadFacts } from "./load-facts.ts";

/** A record that was looked at. */
export interface EvaluatedRecord<T> {
  readonly id: number;
  readonly company: string;
  readonly key: string;
  readonly title: string;
  readonly parentId: number | null;
  readonly responsibleId: string | null;
  readonly value: T;
  /** What is kept of it, as `serialiseStoredCompleteness` writes it; null when nothing is. */
  readonly kept: string | null;
}

/** Signs remembered at a time. */
const SIGNS_MAX = 20_000;

/**
 * Looks at many records of one type with the same rules. What is worked out of the facts of one is remembered under its sign and serves all that are
 * alike; records with decisions or items of their own are worked out each for itself. One looker is for one set of rules and one day. Documents are read once
 * for each record, and serve the others of its chain too.
 */
export function createChecklistEvaluator<T>(type: string, rules: readonly ItemRule[], workOut: (facts: ChecklistFacts) => T) {
  const digest = digestRules(rules);
  const remembered = new Map<string, T>();
  const asksChain = digest.asksChain || digest.alongTypes.length > 0;
  const along = new Set(digest.alongTypes);
  return async (tx: Tx, ids: readonly number[]): Promise<readonly EvaluatedRecord<T>[]> => {
    if (ids.length === 0) return [];
    const { rows } = await tx.execute<Row>(recordsQuery(digest, type, ids));
    const singular = rows.filter((r) => r.is_singular).map((r) => r.id);
    const facts = new Map((await loadFacts(tx, singular, new Map([[type, rules]]))).map((f) => [f.id, f.facts]));
    const chains = asksChain ? await loadChains(tx, [...new Set(rows.flatMap((r) => r.chain_id ?? []))]) : new Map<number, Chained[]>();
    const holders =
      along.size === 0 ? rows.map((r) => r.id) : [...new Set([...rows.map((r) => r.id), ...[...chains.values()].flat().map((c) => c.id)])];
    const papers = await loadPapers(tx, digest, holders);
    return rows.flatMap((row): EvaluatedRecord<T>[] => {
      const own = facts.get(row.id);
      if (row.is_singular && !own) return [];
      const beside = row.chain_id === null ? [] : (chains.get(row.chain_id) ?? []).filter((c) => c.id !== row.id);
      return [
        {
          id: row.id,
          company: row.company,
          key: row.key,
          title: row.title,
          parentId: row.above_id,
          responsibleId: row.responsible_id,
          value: own ? workOut(own) : alike(row, beside, papers),
          kept: row.kept,
        },
      ];
    });
  };

  function alike(row: Row, beside: readonly Chained[], papers: ReadonlyMap<number, readonly AskedPaper[]>): T {
    const values: Record<string, string | null> = {};
    for (const [i, field] of digest.fields.entries()) values[field] = textOf(row[`f${i}`] as string | null);
    const record = askedRecord(values);
    const own = papers.get(row.id) ?? [];
    const others: AskedPaper[] = [];
    if (along.size > 0)
      for (const b of beside)
        for (const p of papers.get(b.id) ?? [])
          if (along.has(p.type) && !own.some((o) => o.id === p.id) && !others.some((o) => o.id === p.id)) others.push(p);
    const types = digest.asksChain ? [...new Set(beside.map((b) => b.type))].sort() : [];
    const sign = [digest.signOf(record), signOf(own), signOf(others), types.join()].join("\n");
    const before = remembered.get(sign);
    if (before !== undefined) return before;
    if (remembered.size >= SIGNS_MAX) remembered.clear();
    const value = workOut({
      record,
      papers: askedPapers(digest, own.map(digestOf), others.map(digestOf)),
      chainTypes: types,
      decisions: [],
      ownItems: [],
    });
    remembered.set(sign, value);
    return value;
  }

  /** Documents in one text, the same however they are ordered. */
  function signOf(list: readonly AskedPaper[]): string {
    if (list.length === 0) return "";
    const first = list[0];
    return list.length === 1 && first
      ? first.sign
      : list
          .map((p) => p.sign)
          .sort()
          .join("\t");
  }
  function digestOf(p: AskedPaper): PaperDigest {
    return [p.type, p.date, ...p.properties.map((v) => (v === null ? null : (JSON.parse(v) as string | boolean | null)))];
  }
}

/** A record of a chain. */
interface Chained {
  readonly id: number;
  readonly type: string;
}
/** A document as far as the rules ask; properties as JSON. */
interface AskedPaper {
  readonly id: number;
  readonly type: string;
  readonly date: string | null;
  readonly properties: readonly (string | null)[];
  readonly sign: string;
}

async function loadChains(tx: Tx, chains: readonly number[]): Promise<ReadonlyMap<number, readonly Chained[]>> {
  const found = new Map<number, Chained[]>();
  if (chains.length === 0) return found;
  const { rows } = await tx.execute<{ chain_id: number; id: number; type: string }>(
    sql`select b.chain_id, b.id, b.type from record b where b.chain_id = any(${idArray(chains)}::bigint[])`,
  );
  for (const { chain_id, id, type } of rows) {
    const chain = found.get(chain_id);
    if (chain) chain.push({ id, type });
    else found.set(chain_id, [{ id, type }]);
  }
  return found;
}

async function loadPapers(
  tx: Tx,
  digest: ChecklistDigest,
  holders: readonly number[],
): Promise<ReadonlyMap<number, readonly AskedPaper[]>> {
  const found = new Map<number, AskedPaper[]>();
  if (holders.length === 0 || digest.documentTypes.length === 0) return found;
  const among = (types: readonly string[]): SQL => sql`d.document_type = any(${textArray(types)}::text[])`;
  const date = digest.datedTypes.length === 0 ? sql`` : sql`, case when ${among(digest.datedTypes)} then d.document_date end as date`;
  const properties = digest.properties.map(
    (p, i) => sql`, case when ${among(digest.propertyTypes)} then (d.properties->${p}::text)::text end as ${sql.identifier(`p${i}`)}`,
  );
  const { rows } = await tx.execute<{ record_id: number; id: number; type: string; date?: string | null } & Record<string, unknown>>(
    sql`select c.record_id, d.id, d.document_type as type${date}${sql.join(properties)} from clip c join document d on d.id = c.document_id
      where c.record_id = any(${idArray(holders)}::bigint[]) and ${among(digest.documentTypes)} and d.unfiled_at is null`,
  );
  for (const row of rows) {
    const values = digest.properties.map((_, i) => (row[`p${i}`] as string | null) ?? null);
    const paper = {
      id: row.id,
      type: row.type,
      date: row.date ?? null,
      properties: values,
      sign: `${row.type} ${row.date ?? ""} ${values.join(" ")}`,
    };
    const list = found.get(row.record_id);
    if (list) list.push(paper);
    else found.set(row.record_id, [paper]);
  }
  return found;
}

interface Row extends Record<string, unknown> {
  readonly id: number;
  readonly company: string;
  readonly key: string;
  readonly title: string;
  readonly above_id: number | null;
  readonly responsible_id: string | null;
  readonly chain_id: number | null;
  readonly is_singular: boolean;
  readonly kept: string | null;
}

const completenessColumns = ["applies", "missing", "in_hand", "lapsed", "waived", "due_on", "lapses_on", "changes_on"] as const;
/** How a record stands, as the latter part of the text that what is kept of it is compared by. Read as columns it cost as much as all else. */
export const serialiseCompleteness = (row: Readonly<Record<(typeof completenessColumns)[number], string | number | null>>): string =>
  completenessColumns.map((name) => row[name] ?? "").join("|");
/** The whole text: whose it is comes first. Nothing stands for null. */
export const serialiseStoredCompleteness = (
  record: Pick<EvaluatedRecord<unknown>, "company" | "parentId" | "responsibleId">,
  how: string,
): string => `${record.company}|${record.parentId ?? ""}|${record.responsibleId ?? ""}|${how}`;
const keptAsText = sql.raw(
  `concat_ws('|', ${["company", "above_id", "responsible_id", ...completenessColumns].map((c) => `coalesce(k.${c}::text, '')`).join(", ")})`,
);

/** One row for each record, with just what the rules ask of it, and what is kept of it. */
function recordsQuery(digest: ChecklistDigest, type: string, ids: readonly number[]): SQL {
  const basics: readonly string[] = recordBasics;
  const fields = digest.fields.map((field, i) =>
    basics.includes(field)
      ? sql`, to_json(r.${sql.identifier(field)})::text as ${sql.identifier(`f${i}`)}`
      : sql`, (r.fields->${field}::text)::text as ${sql.identifier(`f${i}`)}`,
  );
  return sql`select r.id, r.company, r.key, r.title, r.above_id, r.chain_id, coalesce(r.responsible_id, (select a.responsible_id from record a where a.id = r.above_id)) as responsible_id${sql.join(fields)},
      (exists (select from item_decision i where i.record_id = r.id) or exists (select from own_item o where o.record_id = r.id)) as is_singular,
      case when k.record_id is not null then ${keptAsText} end as kept
    from record r left join completeness k on k.record_id = r.id
    where r.id = any(${idArray(ids)}::bigint[]) and r.type = ${type}`;
}

/** A value of JSON as text, as conditions see it: yes and no for true and false. */
function textOf(json: string | null): string | null {
  if (json === null || json === "null") return null;
  if (json === "true") return "yes";
  if (json === "false") return "no";
  if (!json.startsWith('"')) return json;
  return json.includes("\\") ? (JSON.parse(json) as string) : json.slice(1, -1);
}
