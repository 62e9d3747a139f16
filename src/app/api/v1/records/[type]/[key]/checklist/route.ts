import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { decideItem } from "#server/checklists/decide-item.ts";
import { findVisibleRecord } from "#server/records/find-visible-record.ts";

export const POST = door("decideItem", async ({ actor, params, query, body }) => {
  const found = await findVisibleRecord(actor, params.type, params.key, query.company);
  return found ? decideItem(actor, found, body) : refuse("not-found");
});
