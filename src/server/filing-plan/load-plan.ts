import { desc, eq, sql, type SQL } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { planAboutSchema } from "./begin-plan.ts";
import { isMoved, isPlanned, isStepUnderWay } from "./plan-step.ts";
import { movePlan } from "./tables.ts";

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
  return ok({ items: rows.map(planAnswerOf) });
}

/** One plan; refuses not-allowed and not-found. */
export async function loadPlan(actor: Actor, id: string): Promise<Result<PlanAnswer>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const row = (await db().select().from(movePlan).where(eq(movePlan.id, id)))[0];
  return row ? ok(planAnswerOf(row)) : refuse("not-found");
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

/** A row of a plan as its page shows it. */
export function planAnswerOf(row: typeof movePlan.$inferSelect): PlanAnswer {
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
