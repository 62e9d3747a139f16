import { door } from "#server/api/door.ts";
import { scanSoon } from "#server/repository/watch.ts";

export const POST = door("scanNow", ({ actor, body }) => scanSoon(actor, body.connection));
