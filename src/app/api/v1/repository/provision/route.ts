import { door } from "#server/api/door.ts";
import { beginProvision } from "#server/repository/provision.ts";

export const POST = door("provision", ({ actor, body }) => beginProvision(actor, body));
