import { door } from "#server/api/door.ts";
import { noteOpened } from "#server/records/opened.ts";

export const POST = door("openedRecord", ({ actor, params, query }) => noteOpened(actor, { ...params, company: query.company }));
