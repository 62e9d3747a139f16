import { door } from "#server/api/door.ts";
import { listTemplates } from "#server/sections/manage-templates.ts";

export const GET = door("sectionTemplates", ({ actor }) => listTemplates(actor));
