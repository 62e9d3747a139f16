import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { readAgain } from "#server/arrivals/change-state.ts";

export const POST = door("readAgain", async ({ actor, params }) => {
  const id = parseArrivalId(params.id);
  return id ? readAgain(actor, id) : refuse("not-found");
});
