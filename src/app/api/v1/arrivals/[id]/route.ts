import { parseArrivalId } from "#core/shared/brand.ts";
import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { renameArrival } from "#server/arrivals/change-state.ts";
import { loadArrival } from "#server/arrivals/list-arrivals.ts";

export const GET = door("arrival", async ({ actor, params }) => {
  const id = parseArrivalId(params.id);
  const found = id ? await loadArrival(actor, id) : null;
  return found ? ok(found) : refuse("not-found");
});

export const PATCH = door("renameArrival", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? renameArrival(actor, id, body.fileName) : refuse("not-found");
});
