import { door } from "#server/api/door.ts";
import { undoDay } from "#server/automatic-filing/manage.ts";

export const POST = door("undoDay", ({ actor, body }) => undoDay(actor, body));
