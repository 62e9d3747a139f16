import { sql } from "drizzle-orm";
import { pathFolder } from "#core/filing-plan/legal-name.ts";
import { db } from "../db/connect.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";

/**
 * Says on the steps of a plan how the paths of its folders are folded, where it was drawn before that was kept (decision 0041). All of a plan have it or
 * none, so that one is asked.
 */
export async function foldSteps(planId: string): Promise<void> {
  await db().transaction(async (tx) => {
    const isFolder = sql`plan_id = ${planId} and kind = 'folder'`;
    const first = await tx.execute<{ to_folded: string | null }>(
      sql`select to_folded from move_step where ${isFolder} order by position limit 1`,
    );
    if (first.rows[0]?.to_folded !== null) return;
    const { rows } = await tx.execute<{ position: number; from_path: string; to_path: string }>(
      sql`select position, from_path, to_path from move_step where ${isFolder}`,
    );
    const fold = pathFolder();
    await tx.execute(sql`update move_step s set from_folded = x.was, to_folded = x.is
      from unnest(${idArray(rows.map((r) => r.position))}::int[], ${textArray(rows.map((r) => fold(r.from_path)))}::text[],
        ${textArray(rows.map((r) => fold(r.to_path)))}::text[]) as x(position, was, "is") where s.plan_id = ${planId} and s.position = x.position`);
  });
}
