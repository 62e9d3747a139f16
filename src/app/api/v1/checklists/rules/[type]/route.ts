import { door } from "#server/api/door.ts";
import { saveChecklist } from "#server/checklists/manage-rules.ts";

export const PUT = door("putChecklist", ({ actor, params, body: { version, ...rules } }) =>
  saveChecklist(actor, params.type, rules, version),
);
