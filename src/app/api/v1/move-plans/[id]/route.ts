import { door } from "#server/api/door.ts";
import { loadPlan } from "#server/filing-plan/load-plan.ts";

export const GET = door("plan", ({ actor, params }) => loadPlan(actor, params.id));
