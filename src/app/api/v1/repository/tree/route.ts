import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listTree } from "#server/repository/browse.ts";

export const GET = door("tree", async ({ actor, query }) => ok(await listTree(actor, query)));
