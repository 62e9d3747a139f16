import { door } from "#server/api/door.ts";
import { listAutomaticFiling, saveAutomaticFiling } from "#server/automatic-filing/manage.ts";

export const GET = door("automaticFiling", ({ actor }) => listAutomaticFiling(actor));
export const PUT = door("putAutomaticFiling", ({ actor, body }) => saveAutomaticFiling(actor, body));
