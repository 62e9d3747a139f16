import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { unlock } from "#server/arrivals/unlock.ts";

export const POST = door("unlockArrival", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? unlock(actor, id, body.password) : refuse("not-found");
});
