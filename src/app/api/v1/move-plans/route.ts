import { door } from "#server/api/door.ts";
import { planOutOfStep, planRule } from "#server/filing-plan/begin-plan.ts";
import { listPlans } from "#server/filing-plan/load-plan.ts";

export const GET = door("plans", ({ actor }) => listPlans(actor));
export const POST = door("computeMovePlan", ({ actor, body }) =>
  "outOfStep" in body ? planOutOfStep(actor, body.outOfStep) : planRule(actor, body.recordType, body.rule, body.version),
);
