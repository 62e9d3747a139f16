import { door } from "#server/api/door.ts";
import { previewReach } from "#server/reach/reach.ts";

export const POST = door("reach", ({ actor, body }) => previewReach(actor, body));
