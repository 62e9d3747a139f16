import { parseArrivalId } from "#core/shared/brand.ts";
import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadArrival } from "#server/arrivals/list-arrivals.ts";
import { listLines } from "#server/timeline/list-lines.ts";

export const GET = door("arrivalTimeline", async ({ actor, params }) => {
  const id = parseArrivalId(params.id);
  return id && (await loadArrival(actor, id)) ? ok({ items: await listLines(actor, { arrivalId: id }), next: null }) : refuse("not-found");
});
