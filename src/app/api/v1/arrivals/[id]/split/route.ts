import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { splitArrival } from "#server/bench/take-apart.ts";

export const POST = door("splitArrival", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? splitArrival(actor, id, body.parts) : refuse("not-found");
});
