import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listMissing } from "#server/checklists/list-missing.ts";

export const GET = door("missing", async ({ actor, query }) => {
  const { cursor, ...wish } = query;
  return ok(await listMissing(actor, { ...wish, offset: Number(cursor ?? 0) }));
});
