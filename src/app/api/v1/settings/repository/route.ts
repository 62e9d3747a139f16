import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadRepositorySettings, saveRepositorySettings } from "#server/settings/load-settings.ts";

export const GET = door("repositorySettings", async () => ok(await loadRepositorySettings()));
export const PUT = door("putRepositorySettings", ({ actor, body }) => saveRepositorySettings(actor, body));
