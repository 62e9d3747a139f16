import { door } from "#server/api/door.ts";
import { arrivalFile, serveSeen } from "#server/api/seen-file.ts";
import { serveView } from "#server/api/serve-content.ts";

export const GET = door("arrivalView", async ({ actor, params }) =>
  serveSeen(await arrivalFile(actor, params.id), (file) => serveView(file.sha256)),
);
