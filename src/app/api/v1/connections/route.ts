import { door } from "#server/api/door.ts";
import { listConnections } from "#server/repository/manage-connections.ts";

export const GET = door("connections", ({ actor }) => listConnections(actor));
