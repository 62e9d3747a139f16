import { sql } from "drizzle-orm";
import { decideSection, type SectionPaper } from "#core/sections/place-papers.ts";
import { type ReadingOrder, readingOrdersSchema } from "#core/sections/reading-order.ts";
import { type SectionTree, sectionTreeSchema } from "#core/sections/section-tree.ts";
import { queryPrepared, type QueryExecutor } from "../db/query-prepared.ts";
import { db, type Tx } from "../db/connect.ts";
import { keptBySetUp } from "../db/kept-by-set-up.ts";
import { memoizeParse } from "../db/memoize-parse.ts";

const asTree = memoizeParse(sectionTreeSchema);
const asOrders = memoizeParse(readingOrdersSchema);

/** The sections of one record. */
export interface RecordSections {
  readonly tree: SectionTree;
  /** Whether they are the record's own, not its type's. */
  readonly isOwn: boolean;
  /** Whether its type has sections that the record could have. */
  readonly hasTemplate: boolean;
  /** Orders in which its documents can be read. */
  readonly orders: readonly ReadingOrder[];
}

const templates = keptBySetUp(async () => {
  const rows = await queryPrepared<{ record_type: string; tree: string; applies: string; orders: string | null }>(
    sql`select record_type, tree::text as tree, applies, orders::text as orders from section_template`,
  );
  return new Map(rows.map((r) => [r.record_type, r]));
});

/** The sections of a record outside a transaction: as `loadSections`, with what its type says at hand. */
export async function sectionsOf(record: { readonly id: number; readonly type: string }): Promise<RecordSections> {
  const [template, own] = await Promise.all([
    templates().then((all) => all.get(record.type)),
    queryPrepared<{ tree: string | null }>(sql`select tree::text as tree from record_sections where record_id = ${record.id}`),
  ]);
  return asSections({
    template: template?.tree ?? null,
    applies: template?.applies ?? null,
    orders: template?.orders ?? null,
    own: own[0]?.tree ?? null,
    given: own.length > 0,
  });
}

interface SectionsRow extends Record<string, unknown> {
  template: string | null;
  applies: string | null;
  orders: string | null;
  own: string | null;
  given: boolean;
}

/** The sections of a record: its own, else its type's when those are for all records or were given to this one; none otherwise. */
export async function loadSections(tx: QueryExecutor, record: { readonly id: number; readonly type: string }): Promise<RecordSections> {
  const rows = await tx.execute<SectionsRow>(sql`select t.tree::text as template, t.applies, t.orders::text as orders, s.tree::text as own,
      s.record_id is not null as given from (select ${record.id}::bigint as id, ${record.type}::text as type) r
    left join section_template t on t.record_type = r.type left join record_sections s on s.record_id = r.id`);
  return asSections(rows.rows[0]);
}

function asSections(row: SectionsRow | undefined): RecordSections {
  const orders = row?.orders ? asOrders(row.orders) : [];
  if (row?.own) return { tree: asTree(row.own), isOwn: true, hasTemplate: row.template !== null, orders };
  const given = row?.template && (row.applies === "all" || row.given) ? row.template : null;
  return { tree: given === null ? [] : asTree(given), isOwn: false, hasTemplate: Boolean(row?.template), orders };
}

/** The section that a document clipped to a record goes to: the one that was said, else the one the record's rules put it in. */
export async function sectionFor(
  tx: Tx,
  record: { readonly id: number; readonly type: string },
  said: string | undefined,
  paper: SectionPaper,
): Promise<string | null> {
  if (said !== undefined && said.trim() !== "") return said.trim();
  return decideSection((await loadSections(tx, record)).tree, paper);
}

/** The template of a record type with its version; version 0 and no sections when it has none. */
export async function loadTemplate(
  recordType: string,
  tx: Tx = db(),
): Promise<{
  readonly version: number;
  readonly tree: SectionTree;
  readonly applies: "all" | "choice";
  readonly orders: readonly ReadingOrder[];
}> {
  const rows = await tx.execute<{ version: number; tree: unknown; applies: "all" | "choice"; orders: unknown }>(
    sql`select version, tree, applies, orders from section_template where record_type = ${recordType}`,
  );
  const row = rows.rows[0];
  return row
    ? { version: row.version, tree: sectionTreeSchema.parse(row.tree), applies: row.applies, orders: readingOrdersSchema.parse(row.orders) }
    : { version: 0, tree: [], applies: "all", orders: [] };
}
