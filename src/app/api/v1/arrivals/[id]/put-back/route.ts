import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { putBack } from "#server/bench/put-back.ts";

export const POST = door("putBack", async ({ actor, params }) => {
  const id = parseArrivalId(params.id);
  return id ? putBack(actor, id) : refuse("not-found");
});
