import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listReminders, putAway } from "#server/checklists/remind.ts";

export const GET = door("reminders", async ({ actor }) => ok(await listReminders(actor)));
export const POST = door("putAwayReminders", ({ actor, body }) => putAway(actor, body.ids));
