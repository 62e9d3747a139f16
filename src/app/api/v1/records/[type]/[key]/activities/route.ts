import { refuse } from "#core/shared/result.ts";
import { writeActivity } from "#server/activities/write-activity.ts";
import { door } from "#server/api/door.ts";
import { findVisibleRecord } from "#server/records/find-visible-record.ts";

export const POST = door("writeActivity", async ({ actor, params, query, body }) => {
  const found = await findVisibleRecord(actor, params.type, params.key, query.company);
  return found ? writeActivity(actor, found, body) : refuse("not-found");
});
