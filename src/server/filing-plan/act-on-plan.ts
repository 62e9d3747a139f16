import { and, eq, inArray, sql } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { planAboutSchema } from "./begin-plan.ts";
import { type PlanAnswer, planAnswerOf } from "./load-plan.ts";
import { saveRuleIn } from "./load-rules.ts";
import { movePlan, moveStep } from "./tables.ts";

/** What can be done with a plan, and the states in which it can. */
const ways = {
  start: { from: ["drawn"], to: "running" },
  continue: { from: ["stopped"], to: "running" },
  stop: { from: ["running", "undoing"], to: "stopped" },
  undo: { from: ["done", "stopped"], to: "undoing" },
  retry: { from: ["done", "stopped"], to: "running" },
  drop: { from: ["drawing", "drawn"], to: "dropped" },
} as const;
export type PlanAct = keyof typeof ways;
export const planActs = Object.keys(ways) as [PlanAct, ...PlanAct[]];

/**
 * Starts, stops, continues, undoes, drops a plan, or tries its failed steps again. A plan for a rule saves the rule as it begins, and brings the one
 * before back as it is undone. Refuses not-allowed, not-found, plan-state, stale (the rule was changed by somebody else meanwhile).
 */
export async function actOnPlan(actor: Actor, id: string, act: PlanAct): Promise<Result<PlanAnswer>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  return actOnPlanAs(actor, id, act);
}

/** The same for whoever has been found to have the right to what the plan is about. */
export async function actOnPlanAs(actor: Actor, id: string, act: PlanAct): Promise<Result<PlanAnswer>> {
  return db().transaction(async (tx) => {
    const row = (await tx.select().from(movePlan).where(eq(movePlan.id, id)).for("update"))[0];
    if (!row) return refuse("not-found");
    const way = ways[act];
    if (!(way.from as readonly string[]).includes(row.state)) return refuse("plan-state", row.state);
    if (act === "undo" && row.undoUntil !== null && row.undoUntil < now()) return refuse("plan-state", "it is older than 30 days");
    const about = planAboutSchema.parse(row.about);
    if (about.rule && act === "start") {
      const saved = await saveRuleIn(tx, actor, about.rule.recordType, about.rule.rule, about.rule.version);
      if (!saved.ok) return saved;
    }
    if (act === "undo" && about.rule && about.ruleBefore && row.startedAt !== null) {
      const saved = await saveRuleIn(tx, actor, about.rule.recordType, about.ruleBefore, null);
      if (!saved.ok) return saved;
    }
    if (act === "retry") {
      await tx
        .update(moveStep)
        .set({ state: "planned", why: null })
        .where(and(eq(moveStep.planId, id), inArray(moveStep.state, ["failed", "clash"]), sql`why is distinct from 'path-too-long'`));
      await tx.execute(
        sql`update move_plan set failed = 0, clashes = (select count(*) from move_step where plan_id = ${id} and state = 'clash') where id = ${id}`,
      );
    }
    const changed = await tx
      .update(movePlan)
      .set({ state: way.to, why: null, ...(act === "start" ? { startedAt: now() } : {}), ...(act === "stop" ? {} : { endedAt: null }) })
      .where(and(eq(movePlan.id, id), eq(movePlan.state, row.state)))
      .returning();
    if (!changed[0]) return refuse("stale");
    if (act !== "drop" && act !== "stop") await addJob(tx, "executeMovePlan", { plan: id }, { key: `carry:${id}`, queue: "moves" });
    if (act === "start") await writeLines(tx, [{ verb: "movePlanBegun", who: actor.id, details: { label: row.label, plan: id } }]);
    return ok(planAnswerOf(changed[0]));
  });
}
