import { door } from "#server/api/door.ts";
import { listQueueMail } from "#server/ways-in/queue-ways.ts";

export const GET = door("queues", ({ actor }) => listQueueMail(actor));
