import { sql } from "drizzle-orm";
import { standingItems } from "#core/checklists/checklist-state.ts";
import { completenessOf } from "#core/checklists/completeness.ts";
import { db } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { today } from "../ports/clock.ts";
import { loadFacts } from "./load-facts.ts";
import { loadChecklists } from "./load-rules.ts";
import { recheck, refreshAllMarked, rowOf } from "./refresh-completeness.ts";

const CHUNK = 2000;

/**
 * Counts records whose kept completeness differs from what their documents, rules and decisions give (promise 9), and puts them right when asked to. What
 * is marked and not yet worked off is worked off first: it is not wrong, only not done.
 */
export async function checkCompleteness(repair: boolean): Promise<number> {
  await refreshAllMarked();
  const rules = await loadChecklists();
  const day = today();
  let differences = 0;
  for (let after = 0; ;) {
    const ids = (await db().execute<{ id: number }>(sql`select id from record where id > ${after} order by id limit ${CHUNK}`)).rows.map(
      (r) => r.id,
    );
    const last = ids.at(-1);
    if (last === undefined) break;
    after = last;
    const kept = new Map(
      (
        await db().execute<
          ReturnType<typeof rowOf>
        >(sql`select record_id, company, type, above_id, responsible_id, applies, missing, in_hand, lapsed, waived, due_on,
          lapses_on, changes_on from completeness where record_id = any(${idArray(ids)}::bigint[])`)
      ).rows.map((r) => [r.record_id, r]),
    );
    const wrong = (await loadFacts(db(), ids, rules)).filter((f) => {
      const fresh = completenessOf(standingItems(rules.get(f.type) ?? [], f.facts, day), day);
      const row = kept.get(f.id);
      if (fresh.applies === 0n) return row !== undefined;
      return (
        row === undefined ||
        Object.entries(rowOf({ ...f, company: f.facts.record.company }, f.type, fresh)).some(
          ([name, value]) => row[name as keyof typeof row] !== value,
        )
      );
    });
    differences += wrong.length;
    if (repair && wrong.length > 0)
      await recheck(
        wrong.map((w) => w.id),
        rules,
      );
  }
  return differences;
}
