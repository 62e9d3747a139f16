import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadRecordPage } from "#server/records/load-record-page.ts";
import { upsertRecord } from "#server/records/upsert-record.ts";

export const GET = door("record", async ({ actor, params, query }) => {
  const found = await loadRecordPage(actor, params.type, params.key, query.company);
  return found ? ok(found) : refuse("not-found");
});

export const PUT = door("putRecord", async ({ actor, params, query, body }) => {
  const saved = await upsertRecord(actor, query.company, params.type, params.key, body);
  if (!saved.ok) return saved;
  const page = await loadRecordPage(actor, params.type, params.key, query.company);
  return Response.json(page ?? { company: query.company, type: params.type, key: params.key }, { status: saved.value.made ? 201 : 200 });
});
