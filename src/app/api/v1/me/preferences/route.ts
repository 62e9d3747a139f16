import { door } from "#server/api/door.ts";
import { savePreferences } from "#server/settings/load-settings.ts";

export const PUT = door("putPreferences", ({ actor, body }) => savePreferences(actor, body));
