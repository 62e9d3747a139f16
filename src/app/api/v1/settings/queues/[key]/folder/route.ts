import { door } from "#server/api/door.ts";
import { saveQueueFolder } from "#server/ways-in/queue-ways.ts";

export const PUT = door("putQueueFolder", ({ actor, params, body }) => saveQueueFolder(actor, params.key, body));
