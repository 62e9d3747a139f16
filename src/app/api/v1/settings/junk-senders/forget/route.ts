import { door } from "#server/api/door.ts";
import { forgetJunkSender } from "#server/arrivals/junk.ts";

export const POST = door("forgetJunkSender", ({ actor, body }) => forgetJunkSender(actor, body.address));
