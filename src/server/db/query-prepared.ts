import { createHash } from "node:crypto";
import { getTableColumns, getTableName, type SQL, sql } from "drizzle-orm";
import { PgDialect, type PgTable, PgTransaction } from "drizzle-orm/pg-core";
import { pool, type Tx } from "./connect.ts";

const dialect = new PgDialect();
/** Names by statement text. Texts differ by a person's grants, so there are some dozens of each; all are forgotten together beyond the bound. */
const names = new Map<string, string>();
const NAMES_MAX = 2000;

/**
 * Asks something outside a transaction that is asked over and over, such as a record's page: the statement is prepared under a name on each line to
 * the database, so that it is parsed and planned once and not each time (planning took four fifths of the time; docs/performance.md). Only for
 * statements whose plan does not hang on their parameters; one with a list of ids of any length is better off with `execute`.
 */
export async function queryPrepared<Row extends object>(query: SQL): Promise<readonly Row[]> {
  const { sql: text, params } = dialect.sqlToQuery(query);
  return (await pool().query<Row>({ name: nameOf(text), text, values: params })).rows;
}

/** What only asks, within a transaction or outside of one. */
export type QueryExecutor = Pick<Tx, "execute">;

/** Stands for the database where every statement is to be prepared, as with `ask`. Of an answer only the rows are there. */
export const preparedExecutor = { execute: async (query: SQL) => ({ rows: await queryPrepared(query) }) } as unknown as QueryExecutor;

/**
 * The answers to some questions: asked all at once where there are lines to the database for it, one after the other within a transaction, which has
 * one line that takes one question at a time. Those put to a transaction or the database begin when they are waited for.
 */
export async function queryAll<T extends readonly unknown[]>(
  tx: QueryExecutor,
  asked: readonly [...T],
): Promise<{ -readonly [K in keyof T]: Awaited<T[K]> }> {
  const answers: unknown[] = [];
  if (tx instanceof PgTransaction) for (const one of asked) answers.push(await one);
  else answers.push(...(await Promise.all(asked)));
  return answers as { -readonly [K in keyof T]: Awaited<T[K]> };
}

const columnLists = new WeakMap<PgTable, SQL>();
/** The columns of a table by their names here, put together once: building a select again took longer than the database does to answer it. */
function columnsOf(table: PgTable): SQL {
  let list = columnLists.get(table);
  if (!list) {
    const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;
    list = sql.raw(
      Object.entries(getTableColumns(table))
        .map(([name, column]) => `${quoted(getTableName(table))}.${quoted(column.name)} as ${quoted(name)}`)
        .join(", "),
    );
    columnLists.set(table, list);
  }
  return list;
}

/** The rows of a table that fit a condition, as a select of it answers them, asked as `ask` does. For tables whose columns come as they are written. */
export function selectPrepared<T extends PgTable>(table: T, where: SQL): Promise<readonly T["$inferSelect"][]> {
  return queryPrepared<T["$inferSelect"]>(sql`select ${columnsOf(table)} from ${table} where ${where}`);
}

function nameOf(text: string): string {
  let name = names.get(text);
  if (name === undefined) {
    if (names.size >= NAMES_MAX) names.clear();
    name = createHash("sha256").update(text).digest("hex").slice(0, 32);
    names.set(text, name);
  }
  return name;
}
