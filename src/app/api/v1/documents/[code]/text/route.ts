import { door } from "#server/api/door.ts";
import { documentFile, serveSeen } from "#server/api/seen-file.ts";
import { serveText } from "#server/api/serve-content.ts";

export const GET = door("documentText", async ({ actor, params }) =>
  serveSeen(await documentFile(actor, params.code), (file) => serveText(file.sha256)),
);
