import { door } from "#server/api/door.ts";
import { keepSetUp } from "#server/repository/manage-connections.ts";

export const PUT = door("keepSetUp", ({ actor, params, body }) => keepSetUp(actor, params.key, body.setUp));
