import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { lookUp } from "#server/records/look-up.ts";

export const GET = door("lookup", async ({ actor, query }) => ok({ items: await lookUp(actor, query), next: null }));
