import { createHash } from "node:crypto";
import { sql } from "drizzle-orm";
import { type SealedLine, sealText } from "#core/timeline/line.ts";
import { db, type Tx } from "../db/connect.ts";

/** Lines sealed in one batch; the hash chain is touched once for each batch. */
const BATCH = 500;

const lineColumns = sql`id, to_char(at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"') as at, who, verb,
  concat_ws('/', coalesce(company, '-'), coalesce(document_id::text, '-'), coalesce(record_id::text, '-'), coalesce(arrival_id::text, '-')) as subject,
  details::text as details`;

/** Seals lines that have none yet, in batches chained by hash. Safe to run in several processes: one at a time does it. Answers how many. */
export async function sealLines(): Promise<number> {
  let sealed = 0;
  for (;;) {
    const count = await db().transaction(async (tx) => {
      await tx.execute(sql`select pg_advisory_xact_lock(730002)`);
      const found = await tx.execute<SealedLine & Record<string, unknown>>(
        sql`select ${lineColumns} from timeline_line where seal_id is null order by id limit ${BATCH}`,
      );
      if (found.rows.length === 0) return 0;
      const last = await tx.execute<{ hash: string }>(sql`select hash from timeline_seal order by id desc limit 1`);
      const hash = hashOf(last.rows[0]?.hash ?? "", found.rows);
      const made = await tx.execute<{ id: number }>(
        sql`insert into timeline_seal (line_count, hash) values (${found.rows.length}, ${hash}) returning id`,
      );
      const ids = sql`array[${sql.join(
        found.rows.map((l) => sql`${l.id}`),
        sql`, `,
      )}]::bigint[]`;
      await tx.execute(sql`update timeline_line set seal_id = ${made.rows[0]?.id ?? null} where id = any(${ids})`);
      return found.rows.length;
    });
    sealed += count;
    if (count < BATCH) return sealed;
  }
}

/** Goes through every seal and says which batches no longer hold what was sealed (promise 10). Empty: nothing was altered or removed. */
export async function checkSeals(tx: Tx = db()): Promise<readonly { readonly sealId: number; readonly why: "changed" | "missing" }[]> {
  const seals = await tx.execute<{ id: number; line_count: number; hash: string }>(
    sql`select id, line_count, hash from timeline_seal order by id`,
  );
  const wrong: { sealId: number; why: "changed" | "missing" }[] = [];
  let before = "";
  for (const seal of seals.rows) {
    const lines = await tx.execute<SealedLine & Record<string, unknown>>(
      sql`select ${lineColumns} from timeline_line where seal_id = ${seal.id} order by id`,
    );
    if (lines.rows.length !== seal.line_count) wrong.push({ sealId: seal.id, why: "missing" });
    else if (hashOf(before, lines.rows) !== seal.hash) wrong.push({ sealId: seal.id, why: "changed" });
    before = seal.hash;
  }
  return wrong;
}

function hashOf(before: string, lines: readonly SealedLine[]): string {
  return createHash("sha256").update(sealText(before, lines)).digest("hex");
}
