import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { countMissing } from "#server/checklists/list-missing.ts";

export const GET = door("missingCounts", async ({ actor, query }) => ok(await countMissing(actor, query)));
