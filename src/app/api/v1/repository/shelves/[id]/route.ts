import { door } from "#server/api/door.ts";
import { changeShelf } from "#server/repository/shelves.ts";

export const PATCH = door("changeShelf", ({ actor, params, body }) => changeShelf(actor, params.id, body));
