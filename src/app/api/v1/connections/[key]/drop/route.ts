import { door } from "#server/api/door.ts";
import { dropConnection } from "#server/repository/manage-connections.ts";

export const POST = door("dropConnection", ({ actor, params }) => dropConnection(actor, params.key));
