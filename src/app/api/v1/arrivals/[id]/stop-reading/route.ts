import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { stopReading } from "#server/arrivals/change-state.ts";

export const POST = door("stopReading", async ({ actor, params }) => {
  const id = parseArrivalId(params.id);
  return id ? stopReading(actor, id) : refuse("not-found");
});
