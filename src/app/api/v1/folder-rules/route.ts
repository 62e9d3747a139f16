import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listPlan } from "#server/filing-plan/preview-rule.ts";

export const GET = door("folderRules", async ({ actor }) =>
  allowsAnywhere(actor.grants, "plan") ? ok(await listPlan(actor)) : refuse("not-allowed"),
);
