import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listAnswering } from "#server/checklists/remind.ts";

export const GET = door("answering", async ({ actor }) => ok({ items: await listAnswering(actor) }));
