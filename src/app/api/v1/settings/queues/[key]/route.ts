import { door } from "#server/api/door.ts";
import { saveQueueMail } from "#server/ways-in/queue-ways.ts";

export const PUT = door("putQueue", ({ actor, params, body }) => saveQueueMail(actor, params.key, body));
