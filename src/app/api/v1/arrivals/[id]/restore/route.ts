import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { restore } from "#server/arrivals/change-state.ts";

export const POST = door("restore", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? restore(actor, id, body.reason) : refuse("not-found");
});
