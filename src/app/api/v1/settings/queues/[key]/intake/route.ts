import { door } from "#server/api/door.ts";
import { saveQueueIntake } from "#server/ways-in/queue-ways.ts";

export const PUT = door("putQueueIntake", ({ actor, params, body }) => saveQueueIntake(actor, params.key, body));
