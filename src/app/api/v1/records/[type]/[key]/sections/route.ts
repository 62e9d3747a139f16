import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { findVisibleRecord } from "#server/records/find-visible-record.ts";
import { changeSections } from "#server/sections/change-sections.ts";

export const POST = door("changeSections", async ({ actor, params, query, body }) => {
  const found = await findVisibleRecord(actor, params.type, params.key, query.company);
  return found ? changeSections(actor, found, body) : refuse("not-found");
});
