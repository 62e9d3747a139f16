import { createHash } from "node:crypto";
import { type SQL, sql } from "drizzle-orm";
import { type SealedLine, sealText } from "#core/timeline/line.ts";
import { db, type Tx } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { isPlanCarried } from "../filing-plan/plan-step.ts";

/** Lines sealed in one batch; the hash chain is touched once for each batch. */
const BATCH = 500;

/** Above every id. */
const ID_MAX = "9223372036854775807";

const lineColumns = sql`id, to_char(at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as at, who, verb,
  concat_ws('/', coalesce(company, '-'), coalesce(document_id::text, '-'), coalesce(record_id::text, '-'), coalesce(arrival_id::text, '-')) as subject,
  details::text as details`;

/**
 * A line may come to be seen later than those with higher ids, when its transaction took long: lines are looked for among all ids that were given out
 * within this time, ms; by the upkeep within a longer one.
 */
const LATE_MS = 10 * 60_000;
export const VERY_LATE_MS = 24 * 3_600_000;

/** The id below which all lines were sealed so long ago. */
const sealedBelow = (lateMs: number): SQL =>
  sql`coalesce((select below from timeline_seal where made_at < now() - ${`${lateMs} ms`}::interval order by id desc limit 1), 0)`;

/**
 * Seals lines that have none yet, in batches chained by hash. Safe to run in several processes: one at a time does it. Answers how many. `lateMs`: how
 * long a line may have taken until it was seen.
 */
export async function sealLines(lateMs = LATE_MS): Promise<number> {
  let sealed = 0;
  for (;;) {
    const count = await db().transaction(async (tx) => {
      await tx.execute(sql`select pg_advisory_xact_lock(730002)`);
      // Ids between those of the latest seals, and all after them.
      const found = await tx.execute<SealedLine & Record<string, unknown>>(sql`with start as (select ${sealedBelow(lateMs)} as id),
        gap as (select unnest(int8multirange(int8range((select id from start), null))
          - coalesce((select range_agg(lines) from timeline_seal where made_at >= now() - ${`${lateMs} ms`}::interval), '{}')) as ids)
        select line.* from gap cross join lateral (select ${lineColumns} from timeline_line
          where id >= lower(gap.ids) and id < coalesce(upper(gap.ids), ${ID_MAX}::bigint) order by id limit ${BATCH}) line
        order by line.id limit ${BATCH}`);
      if (found.rows.length === 0) return 0;
      const last = (await tx.execute<{ hash: string; below: number }>(sql`select hash, below from timeline_seal order by id desc limit 1`))
        .rows[0];
      const hash = hashOf(last?.hash ?? "", found.rows);
      const below = Math.max(last?.below ?? 0, (found.rows.at(-1)?.id ?? 0) + 1);
      await tx.execute(sql`insert into timeline_seal (line_count, lines, below, hash) select ${found.rows.length},
        range_agg(int8range(id, id + 1)), ${below}, ${hash} from unnest(${idArray(found.rows.map((l) => l.id))}::bigint[]) as x(id)`);
      return found.rows.length;
    });
    sealed += count;
    if (count < BATCH) return sealed;
  }
}

/** Seals lines unless a move plan is being carried out: it writes thousands of them, which wait for its end or for the upkeep. */
export async function sealUnlessMoving(): Promise<void> {
  const { rows } = await db().execute<{ is_carried: boolean }>(sql`select ${isPlanCarried} as is_carried`);
  if (rows[0]?.is_carried !== true) await sealLines();
}

/** What a check of the seals found: a batch that no longer holds what was sealed, or lines beside all batches that are older than some of them. */
export interface SealTrouble {
  readonly sealId: number | null;
  readonly why: "changed" | "missing" | "added";
}

/** Goes through every seal and says which batches no longer hold what was sealed, and whether lines were put in between (promise 10). Empty: nothing was altered. */
export async function checkSeals(tx: Tx = db()): Promise<readonly SealTrouble[]> {
  const seals = await tx.execute<{ id: number; line_count: number; hash: string }>(
    sql`select id, line_count, hash from timeline_seal order by id`,
  );
  const wrong: SealTrouble[] = [];
  let before = "";
  for (const seal of seals.rows) {
    const lines = await tx.execute<
      SealedLine & Record<string, unknown>
    >(sql`select line.* from timeline_seal s cross join lateral unnest(s.lines) r
      cross join lateral (select ${lineColumns} from timeline_line where id >= lower(r) and id < upper(r) offset 0) line where s.id = ${seal.id} order by line.id`);
    if (lines.rows.length !== seal.line_count) wrong.push({ sealId: seal.id, why: "missing" });
    else if (hashOf(before, lines.rows) !== seal.hash) wrong.push({ sealId: seal.id, why: "changed" });
    before = seal.hash;
  }
  const added = await tx.execute(sql`select from timeline_line where id < ${sealedBelow(VERY_LATE_MS)}
    and not id <@ (select coalesce(range_agg(lines), '{}') from timeline_seal) limit 1`);
  if (added.rows.length > 0) wrong.push({ sealId: null, why: "added" });
  return wrong;
}

function hashOf(before: string, lines: readonly SealedLine[]): string {
  return createHash("sha256").update(sealText(before, lines)).digest("hex");
}
