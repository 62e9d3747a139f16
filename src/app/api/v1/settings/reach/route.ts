import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadReachSettings, saveReachSettings } from "#server/settings/load-settings.ts";

export const GET = door("reachSettings", async () => ok(await loadReachSettings()));
export const PUT = door("putReachSettings", ({ actor, body }) => saveReachSettings(actor, body));
