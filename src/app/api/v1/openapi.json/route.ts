import { door } from "#server/api/door.ts";
import { VERSION } from "#server/api/health.ts";
import { openapiDocument } from "#server/api/openapi.ts";
import { config } from "#server/settings/config.ts";

export const GET = door("openapi", async () => Response.json(openapiDocument(config().url, VERSION)));
