import { door } from "#server/api/door.ts";
import { remind } from "#server/checklists/remind.ts";

export const POST = door("remind", ({ actor, body }) => remind(actor, body));
