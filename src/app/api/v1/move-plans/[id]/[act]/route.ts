import { door } from "#server/api/door.ts";
import { actOnPlan } from "#server/filing-plan/act-on-plan.ts";

export const POST = door("actOnPlan", ({ actor, params }) => actOnPlan(actor, params.id, params.act));
