import { door } from "#server/api/door.ts";
import { arrivalFile, serveSeen } from "#server/api/seen-file.ts";
import { serveText } from "#server/api/serve-content.ts";

export const GET = door("arrivalText", async ({ actor, params }) =>
  serveSeen(await arrivalFile(actor, params.id), (file) => serveText(file.sha256)),
);
