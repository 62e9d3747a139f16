import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadTolerance, saveTolerance } from "#server/settings/load-settings.ts";

export const GET = door("tolerance", async () => ok(await loadTolerance()));
export const PUT = door("putTolerance", ({ actor, body }) => saveTolerance(actor, body));
