import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { letGo } from "#server/arrivals/claim.ts";

export const POST = door("letGo", async ({ actor, params }) => {
  const id = parseArrivalId(params.id);
  return id ? letGo(actor, id) : refuse("not-found");
});
