import { door } from "#server/api/door.ts";
import { putConnection } from "#server/repository/manage-connections.ts";

export const PUT = door("putConnection", ({ actor, params, body }) => putConnection(actor, params.key, body));
