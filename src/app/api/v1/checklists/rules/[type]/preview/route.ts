import { door } from "#server/api/door.ts";
import { previewChecklist } from "#server/checklists/preview-rules.ts";

export const POST = door("previewChecklist", ({ actor, params, body }) => previewChecklist(actor, params.type, body));
