import { door } from "#server/api/door.ts";
import { previewRule } from "#server/filing-plan/preview-rule.ts";

export const POST = door("previewFolderRule", ({ actor, params, body }) =>
  previewRule(actor, params.type, body.rule, body.sample, body.seed, body.company, body.keys),
);
