import { door } from "#server/api/door.ts";
import { loadChecked } from "#server/automatic-filing/manage.ts";

export const GET = door("checkedPaper", ({ actor, params }) => loadChecked(actor, params.code));
