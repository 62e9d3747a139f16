import { door } from "#server/api/door.ts";
import { listChecklists } from "#server/checklists/manage-rules.ts";

export const GET = door("checklists", ({ actor }) => listChecklists(actor));
