import { and, desc, eq, inArray, isNull, sql } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { checkFolderRule, type FolderRule, folderRuleSchema } from "#core/filing-plan/folder-rule.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db, type Tx } from "../db/connect.ts";
import { keptBySetUp } from "../db/kept-by-set-up.ts";
import { memoizeParse } from "../db/memoize-parse.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadDocumentTypes, loadRecordType } from "../records/load-types.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { connection, folderRule } from "./tables.ts";

/** A folder rule in force, with its version. */
export interface RuleInForce {
  readonly recordType: string;
  readonly version: number;
  readonly rule: FolderRule;
  readonly madeAt: Date;
}

const asRule = memoizeParse(folderRuleSchema);

const rules = keptBySetUp(() => readRules(db()));

/** The rules in force, by record type. Of all types outside a transaction, whichever are asked for: they are at hand. */
export function loadRules(tx?: Tx, types?: readonly string[]): Promise<ReadonlyMap<string, RuleInForce>> {
  return tx ? readRules(tx, types) : rules();
}

async function readRules(tx: Tx, types?: readonly string[]): Promise<ReadonlyMap<string, RuleInForce>> {
  const rows = await tx
    .select({
      recordType: folderRule.recordType,
      version: folderRule.version,
      text: sql<string>`${folderRule.rule}::text`,
      madeAt: folderRule.madeAt,
    })
    .from(folderRule)
    .where(
      and(
        types ? inArray(folderRule.recordType, [...types]) : sql`true`,
        sql`(record_type, version) in (select record_type, max(version) from folder_rule group by record_type)`,
      ),
    );
  return new Map(rows.map((r) => [r.recordType, { recordType: r.recordType, version: r.version, rule: asRule(r.text), madeAt: r.madeAt }]));
}

/**
 * Saves a record type's folder rule as a new version. It holds for what is filed from now on; what is placed already stays.
 * Refuses not-allowed, unknown-type, bad-input (mistakes in the rule) and stale (somebody saved meanwhile).
 */
export async function saveRule(
  actor: Actor,
  recordType: string,
  rule: FolderRule,
  expectedVersion: number | null,
): Promise<Result<{ version: number }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  return db().transaction((tx) => saveRuleIn(tx, actor, recordType, rule, expectedVersion));
}

/** The same within a transaction, for whoever has the right already. */
export async function saveRuleIn(
  tx: Tx,
  actor: Actor,
  recordType: string,
  rule: FolderRule,
  expectedVersion: number | null,
): Promise<Result<{ version: number }>> {
  const type = await loadRecordType(recordType, tx);
  if (!type) return refuse("unknown-type");
  const errors = checkFolderRule(rule, type, {
    connections: (await tx.select({ key: connection.key }).from(connection).where(isNull(connection.setUp))).map((c) => c.key),
    documentTypes: (await loadDocumentTypes(tx)).map((t) => t.key),
  });
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  await tx.execute(sql`select pg_advisory_xact_lock(730004)`);
  const last = (
    await tx
      .select({ version: folderRule.version })
      .from(folderRule)
      .where(eq(folderRule.recordType, recordType))
      .orderBy(desc(folderRule.version))
      .limit(1)
  )[0];
  if (expectedVersion !== null && (last?.version ?? 0) !== expectedVersion) return refuse("stale");
  const version = (last?.version ?? 0) + 1;
  await tx.insert(folderRule).values({ recordType, version, rule, madeAt: now(), madeBy: actor.id });
  await writeLines(tx, [{ verb: "ruleChanged", who: actor.id, details: { recordType: type.plural } }]);
  return ok({ version });
}
