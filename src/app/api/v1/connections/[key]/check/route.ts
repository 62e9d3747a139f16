import { door } from "#server/api/door.ts";
import { checkConnection } from "#server/repository/manage-connections.ts";

export const POST = door("checkConnection", ({ actor, params }) => checkConnection(actor, params.key));
