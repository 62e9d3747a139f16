import { door } from "#server/api/door.ts";
import { setResponsible } from "#server/checklists/remind.ts";

export const POST = door("setResponsible", ({ actor, body }) => setResponsible(actor, body));
