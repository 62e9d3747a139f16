import { allowsAnywhere } from "#core/access/grants.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { comparePlanFile, exportPlan, importPlanFile } from "#server/filing-plan/plan-file.ts";

export const GET = door("planFile", async ({ actor, query }) => {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const type = query.form === "json" ? "application/json" : "application/yaml";
  return new Response(await exportPlan(query.form), {
    headers: {
      "content-type": `${type}; charset=utf-8`,
      "content-disposition": `attachment; filename="filing-plan.${query.form}"`,
      "cache-control": "no-store",
    },
  });
});
export const POST = door("importPlanFile", ({ actor, body }) =>
  body.save ? importPlanFile(actor, body.text) : comparePlanFile(actor, body.text),
);
