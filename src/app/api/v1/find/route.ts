import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { findWaiting } from "#server/search/find-waiting.ts";
import { find } from "#server/search/find.ts";

export const GET = door("find", async ({ actor, query }) => {
  const offset = Number(query.cursor ?? 0);
  // Of what is not filed yet nobody knows the type or the record: with such a filter there is none.
  const isForAll = !query.type && !query.recordType && !query.within && !query.from && !query.to && offset === 0;
  const [found, waiting] = await Promise.all([
    find(actor, { ...query, offset }),
    isForAll ? findWaiting(actor, query) : { items: [], total: 0 },
  ]);
  return ok({
    ...found,
    waiting,
    next: found.items.length === query.limit && offset + query.limit < found.total ? String(offset + query.limit) : null,
  });
});
