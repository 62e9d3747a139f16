import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { pointOut } from "#server/matching/point-out.ts";

export const POST = door("pointOut", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? pointOut(actor, id, body) : refuse("not-found");
});
