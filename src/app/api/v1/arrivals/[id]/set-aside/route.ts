import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { setAside } from "#server/arrivals/change-state.ts";

export const POST = door("setAside", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? setAside(actor, id, body.reason) : refuse("not-found");
});
