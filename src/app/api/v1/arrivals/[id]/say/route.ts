import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { sayAbout } from "#server/arrivals/say-about.ts";

export const POST = door("sayAboutArrival", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? sayAbout(actor, id, body) : refuse("not-found");
});
