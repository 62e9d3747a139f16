import { door } from "#server/api/door.ts";
import { documentFile, serveSeen } from "#server/api/seen-file.ts";
import { servePage } from "#server/api/serve-content.ts";

export const GET = door("documentPage", async ({ actor, params, query, request }) =>
  serveSeen(await documentFile(actor, params.code, { of: query.of }), (file) => servePage(request, file.sha256, params.page, query)),
);
