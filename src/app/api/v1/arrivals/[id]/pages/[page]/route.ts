import { door } from "#server/api/door.ts";
import { arrivalFile, serveSeen } from "#server/api/seen-file.ts";
import { servePage } from "#server/api/serve-content.ts";

export const GET = door("arrivalPage", async ({ actor, params, query, request }) =>
  serveSeen(await arrivalFile(actor, params.id), (file) => servePage(request, file.sha256, params.page, query)),
);
