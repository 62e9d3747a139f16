import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadLimits, saveLimits } from "#server/settings/load-settings.ts";

export const GET = door("limits", async () => ok(await loadLimits()));
export const PUT = door("putLimits", ({ actor, body }) => saveLimits(actor, body));
