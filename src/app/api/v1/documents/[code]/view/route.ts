import { door } from "#server/api/door.ts";
import { documentFile, serveSeen } from "#server/api/seen-file.ts";
import { serveView } from "#server/api/serve-content.ts";

export const GET = door("documentView", async ({ actor, params }) =>
  serveSeen(await documentFile(actor, params.code), (file) => serveView(file.sha256)),
);
