import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listShelves, makeShelf } from "#server/repository/shelves.ts";

export const GET = door("shelves", async ({ actor }) => ok({ items: await listShelves(actor) }));
export const POST = door("makeShelf", ({ actor, body }) => makeShelf(actor, body));
