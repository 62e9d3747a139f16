import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { findVisibleRecord } from "#server/records/find-visible-record.ts";
import { listLines } from "#server/timeline/list-lines.ts";

export const GET = door("recordTimeline", async ({ actor, params, query }) => {
  const found = await findVisibleRecord(actor, params.type, params.key, query.company);
  return found ? ok({ items: await listLines(actor, { recordId: found.id }), next: null }) : refuse("not-found");
});
