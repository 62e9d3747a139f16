import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { tellApart } from "#server/arrivals/change-state.ts";

export const POST = door("tellApart", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? tellApart(actor, id, body.other) : refuse("not-found");
});
