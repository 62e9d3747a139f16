import { door } from "#server/api/door.ts";
import { decideFindings } from "#server/repository/decide-findings.ts";

export const POST = door("decideFindings", ({ actor, body }) => decideFindings(actor, body.ids, body.decision, body.path));
