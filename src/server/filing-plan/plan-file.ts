import { parse, stringify } from "yaml";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { checkFolderRule } from "#core/filing-plan/folder-rule.ts";
import { comparePlans, type PlanFile, planFileSchema, type RuleDifference } from "#core/filing-plan/plan-file.ts";
import type { FieldError } from "#core/shared/result.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentTypes, loadRecordTypes } from "../records/load-types.ts";
import { loadRules, saveRuleIn } from "./load-rules.ts";
import { listConnectionsInUse } from "./open-repository.ts";

/** Bytes of a plan file; a plan for all record types takes some ten thousand. */
const FILE_BYTES_MAX = 1_000_000;
/** Aliases in YAML that are followed; a few kilobytes of them can stand for gigabytes. */
const ALIASES_MAX = 50;

/** The rules in force as one file. */
export async function exportPlan(form: "yaml" | "json"): Promise<string> {
  const rules = await loadRules();
  const order = (await loadRecordTypes()).map((t) => t.key);
  const sorted = [...rules.values()].sort((a, b) => order.indexOf(a.recordType) - order.indexOf(b.recordType));
  const file: PlanFile = {
    format: "amber-clip/filing-plan",
    version: 1,
    rules: Object.fromEntries(sorted.map((r) => [r.recordType, r.rule])),
  };
  return form === "json" ? `${JSON.stringify(file, null, 2)}\n` : stringify(file, { lineWidth: 120 });
}

/** The published JSON Schema of the file. */
export function planFileJsonSchema(): unknown {
  return z.toJSONSchema(planFileSchema, { io: "input" });
}

/** What a file would change, and its mistakes; nothing is written. Refuses not-allowed, too-large, bad-input (no plan file at all). */
export async function comparePlanFile(
  actor: Actor,
  text: string,
): Promise<Result<{ differences: readonly RuleDifference[]; errors: readonly FieldError[] }>> {
  const read = await readPlanFile(actor, text);
  if (!read.ok) return read;
  const rules = Object.fromEntries([...(await loadRules())].map(([type, r]) => [type, r.rule]));
  return ok({ differences: comparePlans(rules, read.value.file), errors: read.value.errors });
}

/** Saves every rule of a file that differs, each as a new version; for records without a folder from then on. All or none. */
export async function importPlanFile(actor: Actor, text: string): Promise<Result<{ saved: readonly string[] }>> {
  const read = await readPlanFile(actor, text);
  if (!read.ok) return read;
  if (read.value.errors.length > 0) return refuse("bad-input", undefined, read.value.errors);
  return db().transaction(async (tx) => {
    const rules = Object.fromEntries([...(await loadRules(tx))].map(([type, r]) => [type, r.rule]));
    const saved: string[] = [];
    for (const { recordType, kind } of comparePlans(rules, read.value.file)) {
      const rule = read.value.file.rules[recordType];
      if (kind === "same" || !rule) continue;
      const done = await saveRuleIn(tx, actor, recordType, rule, null);
      // Checked before, so this is our own bug; thrown, so that nothing of the file is kept.
      if (!done.ok) throw new Error(`rule of ${recordType}: ${done.refusal.code}`);
      saved.push(recordType);
    }
    return ok({ saved });
  });
}

async function readPlanFile(actor: Actor, text: string): Promise<Result<{ file: PlanFile; errors: readonly FieldError[] }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  if (Buffer.byteLength(text) > FILE_BYTES_MAX) return refuse("too-large");
  let raw: unknown;
  try {
    raw = parse(text, { maxAliasCount: ALIASES_MAX, prettyErrors: true });
  } catch (error) {
    return refuse("bad-input", error instanceof Error ? error.message.split("\n")[0] : "it cannot be read");
  }
  const parsed = planFileSchema.safeParse(raw);
  if (!parsed.success)
    return refuse(
      "bad-input",
      "It is no filing plan",
      parsed.error.issues.slice(0, 20).map((i) => ({ path: i.path.join("."), message: i.message })),
    );
  const types = new Map((await loadRecordTypes()).map((t) => [t.key, t]));
  const around = {
    connections: (await listConnectionsInUse()).map((c) => c.key),
    documentTypes: (await loadDocumentTypes()).map((t) => t.key),
  };
  const errors = Object.entries(parsed.data.rules).flatMap(([key, rule]) => {
    const type = types.get(key);
    if (!type) return [{ path: `rules.${key}`, message: `there is no record type "${key}"` }];
    return checkFolderRule(rule, type, around).map((e) => ({ path: `rules.${key}.${e.path}`, message: e.message }));
  });
  return ok({ file: parsed.data, errors });
}
