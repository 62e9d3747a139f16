import { door } from "#server/api/door.ts";
import { documentFile, serveSeen } from "#server/api/seen-file.ts";
import { serveContent } from "#server/api/serve-content.ts";

export const GET = door("documentContent", async ({ actor, params, query, request }) =>
  serveSeen(await documentFile(actor, params.code, query), (file) =>
    serveContent(request, file.sha256, file.fileName, query.download === "1"),
  ),
);
