import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listDocumentsOf } from "#server/records/load-record-page.ts";

export const GET = door("recordDocuments", async ({ actor, params, query }) => {
  const page = { limit: query.limit, before: query.cursor === undefined ? null : Number(query.cursor) };
  const found = await listDocumentsOf(actor, { ...params, company: query.company }, query.scope, page);
  return found ? ok(found) : refuse("not-found");
});
