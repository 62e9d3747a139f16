import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { claim } from "#server/arrivals/claim.ts";

export const POST = door("claimArrival", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? claim(actor, id, body.takeOver) : refuse("not-found");
});
