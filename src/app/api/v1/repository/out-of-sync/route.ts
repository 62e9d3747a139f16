import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listOutOfSync } from "#server/repository/list-out-of-sync.ts";

export const GET = door("outOfSync", async ({ actor, query }) => ok(await listOutOfSync(actor, query.company)));
