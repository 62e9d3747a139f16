import { door } from "#server/api/door.ts";
import { arrivalFile, serveSeen } from "#server/api/seen-file.ts";
import { serveContent } from "#server/api/serve-content.ts";

export const GET = door("arrivalContent", async ({ actor, params, query, request }) =>
  serveSeen(await arrivalFile(actor, params.id), (file) => serveContent(request, file.sha256, file.fileName, query.download === "1")),
);
