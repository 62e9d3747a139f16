import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { find } from "#server/search/find.ts";

export const GET = door("find", async ({ actor, query }) => {
  const offset = Number(query.cursor ?? 0);
  const found = await find(actor, { ...query, offset });
  return ok({
    ...found,
    next: found.items.length === query.limit && offset + query.limit < found.total ? String(offset + query.limit) : null,
  });
});
