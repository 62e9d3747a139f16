import { door } from "#server/api/door.ts";
import { undoDay } from "#server/hands-free/manage.ts";

export const POST = door("undoDay", ({ actor, body }) => undoDay(actor, body));
