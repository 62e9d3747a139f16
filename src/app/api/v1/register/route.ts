import { ok } from "#core/shared/result.ts";
import { door, pageOf } from "#server/api/door.ts";
import { registerCsv } from "#server/api/register-csv.ts";
import { arrivalStates } from "#core/arrivals/journey.ts";
import { listArrivals } from "#server/arrivals/list-arrivals.ts";

export const GET = door("register", async ({ actor, query, request }) => {
  const offset = Number(query.cursor ?? 0);
  const { state, problem, mine, sure, ...rest } = query;
  const wish = { ...rest, states: state ?? arrivalStates, problem: problem === "1", mine: mine === "1", sure: sure === "1", offset };
  if ((request.headers.get("accept") ?? "").includes("text/csv")) return registerCsv(actor, wish);
  const found = await listArrivals(actor, wish);
  return ok(pageOf(found.items, found.total, offset));
});
