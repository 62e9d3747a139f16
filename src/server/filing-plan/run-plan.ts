import { and, desc, eq, inArray, sql, type SQL } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { planAboutSchema } from "./begin-plan.ts";
import { saveRuleIn } from "./load-plan.ts";
import { isMoved, isPlanned, isStepUnderWay } from "./plan-step.ts";
import { movePlan, moveStep } from "./tables.ts";

/** A move plan as its page shows it. */
export interface PlanAnswer {
  readonly id: string;
  readonly cause: string;
  readonly label: string;
  readonly state: string;
  readonly why: string | null;
  readonly steps: number;
  readonly done: number;
  readonly failed: number;
  readonly clashes: number;
  readonly documents: number;
  readonly folders: number;
  readonly looked: number;
  readonly madeAt: string;
  readonly startedAt: string | null;
  readonly endedAt: string | null;
  readonly undoUntil: string | null;
  /** The type whose rule is saved when it begins. */
  readonly recordType: string | null;
}

/** One line of a plan: old → new. */
export interface StepAnswer {
  readonly position: number;
  readonly kind: string;
  readonly code: string | null;
  readonly record: { readonly company: string; readonly type: string; readonly key: string; readonly title: string } | null;
  readonly from: string;
  readonly fromConnection: string;
  readonly to: string;
  readonly toConnection: string;
  readonly documents: number;
  readonly foundBy: string;
  readonly state: string;
  readonly why: string | null;
}

/** Plans, newest first. */
export async function listPlans(actor: Actor): Promise<Result<{ items: readonly PlanAnswer[] }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const rows = await db()
    .select()
    .from(movePlan)
    .where(sql`state <> 'dropped' and cause in ('rule','outOfStep')`)
    .orderBy(desc(movePlan.madeAt))
    .limit(50);
  return ok({ items: rows.map(answerOf) });
}

/** One plan; refuses not-allowed and not-found. */
export async function loadPlan(actor: Actor, id: string): Promise<Result<PlanAnswer>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const row = (await db().select().from(movePlan).where(eq(movePlan.id, id)))[0];
  return row ? ok(answerOf(row)) : refuse("not-found");
}

/** A plan's lines that the person may see, by place, state and words in old or new path. */
export async function listSteps(
  actor: Actor,
  id: string,
  wish: { readonly q?: string | undefined; readonly show?: string | undefined; readonly limit: number; readonly after: number },
): Promise<Result<{ items: readonly StepAnswer[]; next: string | null; total: number }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const parts: SQL[] = [
    sql`s.plan_id = ${id} and not s.is_aside`,
    sql`(r.id is null or ${recordFilter(actor, "see", sql`r`)})`,
    // A file's name tells what it is about: only of documents that this person may see.
    sql`(d.id is null or ${await documentFilter(actor, "see", sql`d.acl_id`)})`,
  ];
  if (wish.show === "trouble") parts.push(sql`s.state in ('clash','failed')`);
  if (wish.show === "numbered") parts.push(sql`s.found_by = 'number'`);
  if (wish.show === "moved") parts.push(isMoved(id, sql`s`));
  if (wish.show === "planned") parts.push(isPlanned(id, sql`s`));
  if (wish.q) {
    const pattern = `%${wish.q.replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
    parts.push(sql`(s.shown_from ilike ${pattern} or s.to_path ilike ${pattern})`);
  }
  const where = sql.join(parts, sql` and `);
  const from = sql`move_step s left join record r on r.id = s.record_id left join document d on d.id = s.document_id`;
  const [rows, total] = await Promise.all([
    db().execute<{
      position: number;
      kind: string;
      code: string | null;
      company: string | null;
      type: string;
      key: string;
      title: string;
      shown_from: string;
      from_connection: string;
      to_path: string;
      to_connection: string;
      documents: number;
      found_by: string;
      state: string;
      why: string | null;
    }>(sql`select s.position, s.kind, d.code, r.company, r.type, r.key, r.title, s.shown_from, s.from_connection, s.to_path, s.to_connection, s.documents, s.found_by, s.why,
        case when ${isStepUnderWay(id, sql`s`)} then 'moving' when ${isMoved(id, sql`s`)} then 'moved' else s.state end as state
      from ${from} where ${where} and s.position > ${wish.after} order by s.position limit ${wish.limit}`),
    db().execute<{ n: number }>(sql`select count(*)::int as n from ${from} where ${where}`),
  ]);
  const items = rows.rows.map((s) => ({
    position: s.position,
    kind: s.kind,
    code: s.code,
    record: s.company === null ? null : { company: s.company, type: s.type, key: s.key, title: s.title },
    from: s.shown_from,
    fromConnection: s.from_connection,
    to: s.to_path,
    toConnection: s.to_connection,
    documents: s.documents,
    foundBy: s.found_by,
    state: s.state,
    why: s.why,
  }));
  return ok({ items, total: total.rows[0]?.n ?? 0, next: items.length === wish.limit ? String(items.at(-1)?.position) : null });
}

export const stepColumns = [
  "kind",
  "company",
  "type",
  "key",
  "title",
  "code",
  "from",
  "to",
  "fromConnection",
  "toConnection",
  "documents",
  "foundBy",
  "state",
  "why",
] as const;
const CSV_PAGE = 1000;

/** Every line of a plan that the person may see, for CSV. */
export async function* eachStep(
  actor: Actor,
  id: string,
  wish: { readonly q?: string | undefined; readonly show?: string | undefined },
): AsyncGenerator<Record<string, unknown>> {
  for (let after = -1; ;) {
    const page = await listSteps(actor, id, { ...wish, limit: CSV_PAGE, after });
    if (!page.ok) return;
    for (const step of page.value.items) yield { ...step, ...step.record };
    if (page.value.next === null) return;
    after = Number(page.value.next);
  }
}

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
    if (act !== "drop" && act !== "stop") await addJob(tx, "carryPlan", { plan: id }, { key: `carry:${id}`, queue: "moves" });
    if (act === "start") await writeLines(tx, [{ verb: "movePlanBegun", who: actor.id, details: { label: row.label, plan: id } }]);
    return ok(answerOf(changed[0]));
  });
}

function answerOf(row: typeof movePlan.$inferSelect): PlanAnswer {
  const about = planAboutSchema.parse(row.about);
  return {
    id: row.id,
    cause: row.cause,
    label: row.label,
    state: row.state,
    why: row.why,
    steps: row.steps,
    done: row.done,
    failed: row.failed,
    clashes: row.clashes,
    documents: row.documents,
    folders: row.folders,
    looked: row.looked,
    madeAt: row.madeAt.toISOString(),
    startedAt: row.startedAt?.toISOString() ?? null,
    endedAt: row.endedAt?.toISOString() ?? null,
    undoUntil: row.undoUntil?.toISOString() ?? null,
    recordType: about.rule?.recordType ?? null,
  };
}
