import { door } from "#server/api/door.ts";
import { planFileJsonSchema } from "#server/filing-plan/plan-file.ts";

export const GET = door("planFileSchema", async () => Response.json(planFileJsonSchema()));
