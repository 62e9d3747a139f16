import { eq } from "drizzle-orm";
import type { Result } from "#core/shared/result.ts";
import { ok } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { executeMovePlan } from "./execute-move-plan.ts";
import { planAboutSchema, type PlanCause } from "./begin-plan.ts";
import { computeMovePlan } from "./compute-move-plan.ts";
import { enterPlan } from "./enter-plan.ts";
import { actOnPlanAs } from "./act-on-plan.ts";
import { movePlan } from "./tables.ts";

/** How long somebody who moves one document or record is kept waiting; the rest goes on in the background, ms. */
const WAIT_MS = 4000;

/** What a small move came to. */
export interface MovedNow {
  readonly plan: string;
  readonly state: string;
  readonly documents: number;
  readonly clashes: number;
  readonly failed: number;
}

/**
 * Moves a record's folder or a document to where the plan would have it, at once. Null when it stands there already. The caller has made sure of the
 * right to. Goes on in the background when it takes long; can be undone like any plan.
 */
export async function moveNow(
  actor: Actor,
  cause: PlanCause,
  label: string,
  scope: { readonly recordIds?: readonly number[]; readonly documentIds?: readonly number[] },
): Promise<Result<MovedNow | null>> {
  const about = planAboutSchema.parse({ recordIds: [...(scope.recordIds ?? [])], documentIds: [...(scope.documentIds ?? [])] });
  const id = await enterPlan(db(), actor, cause, label, about);
  await computeMovePlan(id);
  const drawn = (await db().select().from(movePlan).where(eq(movePlan.id, id)))[0];
  if (!drawn || drawn.steps === 0) {
    await db().delete(movePlan).where(eq(movePlan.id, id));
    return ok(null);
  }
  const started = await actOnPlanAs(actor, id, "start");
  if (!started.ok) return started;
  // The queued job does the same; whoever comes second waits, and finds nothing left to do.
  await executeMovePlan(id, WAIT_MS);
  const row = (await db().select().from(movePlan).where(eq(movePlan.id, id)))[0];
  return ok({ plan: id, state: row?.state ?? "running", documents: drawn.documents, clashes: row?.clashes ?? 0, failed: row?.failed ?? 0 });
}
