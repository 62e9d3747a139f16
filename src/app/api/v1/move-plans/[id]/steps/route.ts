import { door } from "#server/api/door.ts";
import { csvOf, wantsCsv } from "#server/api/csv.ts";
import { eachStep, listSteps, stepColumns } from "#server/filing-plan/load-plan.ts";

export const GET = door("planSteps", async ({ actor, params, query, request }) => {
  const { cursor, ...wish } = query;
  const first = await listSteps(actor, params.id, { ...wish, after: Number(cursor ?? -1) });
  return first.ok && wantsCsv(request) ? csvOf("move-plan.csv", stepColumns, eachStep(actor, params.id, wish)) : first;
});
