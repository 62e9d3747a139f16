import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { changeMany } from "#server/arrivals/change-many.ts";

export const POST = door("bulkArrivals", async ({ actor, body }) => ok(await changeMany(actor, body)));
