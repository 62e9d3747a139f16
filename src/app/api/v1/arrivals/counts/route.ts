import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { countArrivals } from "#server/arrivals/list-arrivals.ts";

export const GET = door("arrivalCounts", async ({ actor }) => ok({ items: await countArrivals(actor), next: null }));
