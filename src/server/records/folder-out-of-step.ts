import { sql } from "drizzle-orm";
import { decideFolder, ruleFor } from "#core/filing-plan/decide-folder.ts";
import { withoutNumber } from "#core/filing-plan/legal-name.ts";
import { queryPrepared } from "../db/query-prepared.ts";
import { loadRules } from "../filing-plan/load-rules.ts";
import { limitsOf } from "../filing-plan/open-repository.ts";
import { asFolderRecord } from "../filing-plan/settle-folder.ts";
import type { record } from "./tables.ts";

/** Where a record's folder stands, and where the filing plan would have it by now. */
export interface FolderOutOfStep {
  readonly from: string;
  readonly to: string;
  /** Documents in it and beneath it that would go along. */
  readonly documents: number;
}

/** Whether a record's folder is not where the filing plan would have it, after its name, its account or a rule changed. Null when it is, or has none. */
export async function folderOutOfStep(row: typeof record.$inferSelect): Promise<FolderOutOfStep | null> {
  const [found, rules] = await Promise.all([
    queryPrepared<{ path: string; path_folded: string; connection: string; parent: string | null }>(
      sql`select f.path, f.path_folded, f.connection, a.path as parent from own_folder f left join own_folder a on a.record_id = ${row.parentId}
      where f.record_id = ${row.id}`,
    ),
    loadRules(),
  ]);
  const now = found[0];
  const rule = rules.get(row.type)?.rule;
  if (!now || !rule) return null;
  const about = asFolderRecord(row);
  const holds = ruleFor(about, rule);
  // The account above has no folder of its own yet: where it will be is not known before something is filed there.
  if (holds.inside && row.parentId !== null && now.parent === null) return null;
  const proposal = decideFolder(about, rule, holds.inside ? (now.parent?.split("/") ?? null) : null, await limitsOf(holds.connection));
  const wanted = [proposal.segments, ...(proposal.toldApart ? [proposal.toldApart] : [])].map((s) => s.join("/"));
  if (holds.connection === now.connection && (wanted.includes(now.path) || wanted.includes(withoutNumber(now.path)))) return null;
  const count = await queryPrepared<{ n: number }>(sql`select count(*)::int as n from placement p join folder f on f.id = p.folder_id
    where f.connection = ${now.connection} and (f.path_folded = ${now.path_folded} or f.path_folded >= ${`${now.path_folded}/`} and f.path_folded < ${`${now.path_folded}0`})`);
  return { from: now.path, to: wanted[0] ?? now.path, documents: count[0]?.n ?? 0 };
}
