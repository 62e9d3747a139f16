import { door } from "#server/api/door.ts";
import { listFiledByItself } from "#server/automatic-filing/manage.ts";

export const GET = door("filedByItself", ({ actor, query }) => listFiledByItself(actor, query.day ?? null));
