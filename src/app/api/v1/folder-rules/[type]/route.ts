import { door } from "#server/api/door.ts";
import { saveRule } from "#server/filing-plan/load-rules.ts";

export const PUT = door("putFolderRule", ({ actor, params, body }) => saveRule(actor, params.type, body.rule, body.version));
