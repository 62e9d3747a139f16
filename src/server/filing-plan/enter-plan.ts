import { randomUUID } from "node:crypto";
import type { Tx } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import type { PlanAbout, PlanCause } from "./begin-plan.ts";
import { movePlan } from "./tables.ts";

/** Enters a plan that is still to be drawn, and answers its id. */
export async function enterPlan(tx: Tx, actor: Actor, cause: PlanCause, label: string, about: PlanAbout): Promise<string> {
  const id = randomUUID();
  await tx.insert(movePlan).values({ id, cause, label, about, madeAt: now(), madeBy: actor.id });
  return id;
}
