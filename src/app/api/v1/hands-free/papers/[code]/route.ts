import { door } from "#server/api/door.ts";
import { loadChecked } from "#server/hands-free/manage.ts";

export const GET = door("checkedPaper", ({ actor, params }) => loadChecked(actor, params.code));
