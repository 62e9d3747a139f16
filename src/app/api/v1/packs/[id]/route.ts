import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listPacks } from "#server/packs/make-pack.ts";

export const GET = door("pack", async ({ actor, params }) => {
  const pack = (await listPacks(actor, params.id))[0];
  return pack ? ok(pack) : refuse("not-found");
});
