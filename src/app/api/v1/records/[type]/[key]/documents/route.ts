import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { findVisibleRecord } from "#server/records/find-record.ts";
import { listRecordDocuments } from "#server/records/load-record-page.ts";

export const GET = door("recordDocuments", async ({ actor, params, query }) => {
  const found = await findVisibleRecord(actor, params.type, params.key, query.company);
  return found
    ? ok(
        await listRecordDocuments(actor, found, query.scope, {
          limit: query.limit,
          before: query.cursor === undefined ? null : Number(query.cursor),
        }),
      )
    : refuse("not-found");
});
