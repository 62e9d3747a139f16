import { type SQL, sql } from "drizzle-orm";
import type { FolderRecord } from "#core/filing-plan/decide-folder.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { db } from "../db/connect.ts";
import { readAhead } from "../db/read-ahead.ts";

/** A record as far as its folder depends on it, with the folder that it has. */
export interface PlanRecord extends FolderRecord {
  readonly id: number;
  readonly parentId: number | null;
  /** Steps of the folder of the record above; null when there is none above or it has no folder. */
  readonly parent: readonly string[] | null;
  readonly folder: OwnFolder | null;
}

export interface OwnFolder {
  readonly path: string;
  readonly connection: string;
  readonly papers: number;
}

/** Records that are read at once: while these are looked at, the database looks up the next, and other people's requests are answered in between. */
const PORTION = 10_000;

/**
 * All records of a scope by their ids, in portions. Folders are fetched once for all of them: far fewer records have one, and many share the one above,
 * so that joining them to each record costs more than looking them up here.
 * @param scope Condition on `record`.
 * @param fields Names of the fields that are needed; letters and digits only.
 */
export async function* readPlanRecords(scope: SQL, fields: readonly string[]): AsyncGenerator<readonly PlanRecord[]> {
  const read = (after: number) => () => readColumns(scope, fields, after);
  const portions = readAhead(read(0), ({ id }) => (id.length < PORTION ? null : read(id.at(-1) ?? 0)));
  // Asked for side by side.
  const [first, own, parent] = await Promise.all([portions.next(), ownFolders(scope), parentFolders(scope)]);
  const recordsOf = (columns: Columns): readonly PlanRecord[] =>
    columns.id.map((id, n) => {
      const parentId = columns.above_id[n] ?? null;
      return {
        id,
        company: columns.company[n] ?? "",
        key: columns.key[n] ?? "",
        title: columns.title[n] ?? "",
        status: columns.status[n] ?? null,
        date: columns.date[n] ?? null,
        fields: fieldsAt(fields, columns.fields, n),
        parentId,
        parent: parentId === null ? null : (parent.get(parentId) ?? null),
        folder: own.get(id) ?? null,
      };
    });
  if (first.done) return;
  yield recordsOf(first.value);
  for await (const columns of portions) yield recordsOf(columns);
}

/** Some records, one list for each column: read many times faster than as many rows of single values. */
interface Columns {
  readonly id: readonly number[];
  readonly company: readonly string[];
  readonly key: readonly string[];
  readonly title: readonly string[];
  readonly status: readonly (string | null)[];
  readonly date: readonly (string | null)[];
  readonly above_id: readonly (number | null)[];
  /** A list for each field. */
  readonly fields: readonly (readonly (FieldValues[string] | null)[])[];
}

const BASICS = ["id", "company", "key", "title", "status", "date", "above_id"] as const;

async function readColumns(scope: SQL, fields: readonly string[], after: number): Promise<Columns> {
  const field = (at: number): string => `field_${at}`;
  const basics = BASICS.map((name) => sql.raw(`record.${name}`));
  const named = fields.map((name, n) => sql.raw(`record.fields->'${name}' as ${field(n)}`));
  const columns = [...BASICS, ...fields.map((_, n) => field(n))].map((name) =>
    sql.raw(`coalesce(json_agg(${name}), '[]'::json) as ${name}`),
  );
  const { rows } = await db().execute<Omit<Columns, "fields"> & Record<string, never>>(sql`select ${sql.join(columns, sql`, `)}
    from (select ${sql.join([...basics, ...named], sql`, `)} from record where ${scope} and record.id > ${after} order by record.id limit ${PORTION}) portion`);
  const [read] = rows;
  if (!read) throw new Error("an aggregate without a row");
  return { ...read, fields: fields.map((_, n) => read[field(n)] ?? []) };
}

function fieldsAt(names: readonly string[], columns: Columns["fields"], at: number): FieldValues {
  const fields: Record<string, FieldValues[string]> = {};
  for (const [n, name] of names.entries()) {
    const value = columns[n]?.[at] ?? null;
    if (value !== null) fields[name] = value;
  }
  return fields;
}

async function ownFolders(scope: SQL): Promise<ReadonlyMap<number, OwnFolder>> {
  const { rows } = await db().execute<{ id: number; path: string; connection: string; papers: number }>(sql`
    with papers as (select folder_id, count(*)::int as n from placement group by folder_id)
    select f.record_id as id, f.path, f.connection, coalesce(papers.n, 0) as papers
    from record join own_folder f on f.record_id = record.id left join papers on papers.folder_id = f.folder_id where ${scope}`);
  return new Map(rows.map((r) => [r.id, { path: r.path, connection: r.connection, papers: r.papers }]));
}

async function parentFolders(scope: SQL): Promise<ReadonlyMap<number, readonly string[]>> {
  const { rows } = await db().execute<{ id: number; path: string }>(sql`select f.record_id as id, f.path
    from (select distinct record.above_id from record where ${scope}) parent join own_folder f on f.record_id = parent.above_id`);
  return new Map(rows.map((r) => [r.id, r.path.split("/")]));
}
