import { door } from "#server/api/door.ts";
import { saveTemplate } from "#server/sections/manage-templates.ts";

export const PUT = door("putSectionTemplate", ({ actor, params, body }) => saveTemplate(actor, params.type, body));
