import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadMe } from "#server/people/load-me.ts";

export const GET = door("me", async ({ actor }) => ok(await loadMe(actor)));
