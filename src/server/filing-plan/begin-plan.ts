import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { checkFolderRule, type FolderRule, folderRuleSchema } from "#core/filing-plan/folder-rule.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentTypes, loadRecordType, loadRecordTypes } from "../records/load-types.ts";
import { enterPlan } from "./enter-plan.ts";
import { loadRules } from "./load-rules.ts";
import { listConnectionsInUse } from "./open-repository.ts";

/** What a plan is about. */
export const planAboutSchema = z.object({
  /** Record types whose records are looked at; all with "all". */
  recordTypes: z.union([z.literal("all"), z.array(z.string())]).default([]),
  recordIds: z.array(z.number().int()).default([]),
  documentIds: z.array(z.number().int()).default([]),
  /** A rule that is not in force yet: the plan is drawn by it, and it is saved when the plan begins. */
  rule: z.object({ recordType: z.string(), version: z.number().int(), rule: folderRuleSchema }).nullable().default(null),
  /** The rule that was in force before; undoing the plan brings it back. */
  ruleBefore: folderRuleSchema.nullable().default(null),
});

export type PlanAbout = z.infer<typeof planAboutSchema>;

export type PlanCause = "rule" | "record" | "document" | "outOfStep";

/** Begins a move plan for a changed folder rule: it is drawn in the background and shown as it grows. Refuses not-allowed, unknown-type, bad-input. */
export async function planRule(actor: Actor, recordType: string, rule: FolderRule, version: number): Promise<Result<{ id: string }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const type = await loadRecordType(recordType);
  if (!type) return refuse("unknown-type");
  const errors = checkFolderRule(rule, type, {
    connections: (await listConnectionsInUse()).map((c) => c.key),
    documentTypes: (await loadDocumentTypes()).map((t) => t.key),
  });
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  const inForce = (await loadRules(db(), [recordType])).get(recordType);
  if ((inForce?.version ?? 0) !== version) return refuse("stale");
  const about = planAboutSchema.parse({
    recordTypes: [recordType],
    rule: { recordType, version, rule },
    ruleBefore: inForce?.rule ?? null,
  });
  return ok({ id: await beginPlan(actor, "rule", type.plural, about) });
}

/** Begins a plan for everything of some record types (or all) that does not stand where the filing plan would have it. */
export async function planOutOfStep(actor: Actor, recordTypes: "all" | readonly string[]): Promise<Result<{ id: string }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const types = await loadRecordTypes();
  const label =
    recordTypes === "all"
      ? "everything out of step"
      : types
          .filter((t) => recordTypes.includes(t.key))
          .map((t) => t.plural)
          .join(", ");
  const about = planAboutSchema.parse({ recordTypes: recordTypes === "all" ? "all" : [...recordTypes] });
  return ok({ id: await beginPlan(actor, "outOfStep", label, about) });
}

/** Enters a plan and queues its drawing. */
export async function beginPlan(actor: Actor, cause: PlanCause, label: string, about: PlanAbout): Promise<string> {
  return db().transaction(async (tx) => {
    const id = await enterPlan(tx, actor, cause, label, about);
    await addJob(tx, "computeMovePlan", { plan: id }, { key: `draw:${id}`, priority: -1 });
    return id;
  });
}
