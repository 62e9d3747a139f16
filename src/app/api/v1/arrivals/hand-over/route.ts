import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listTargets } from "#server/arrivals/hand-over.ts";

export const GET = door("handOverTargets", async ({ actor }) => ok(await listTargets(actor)));
