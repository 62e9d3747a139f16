import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadScanWish } from "#server/ways-in/scan-wish.ts";

export const GET = door("scanWish", async ({ actor, params }) => {
  const wish = await loadScanWish(actor, params.id);
  return wish ? ok(wish) : refuse("not-found");
});
