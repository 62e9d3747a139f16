import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { missingCsv } from "#server/api/missing-csv.ts";
import { listMissing } from "#server/checklists/list-missing.ts";

export const GET = door("missing", async ({ actor, query, request }) => {
  const { cursor, ...wish } = query;
  if ((request.headers.get("accept") ?? "").includes("text/csv")) return missingCsv(actor, wish);
  return ok(await listMissing(actor, { ...wish, offset: Number(cursor ?? 0) }));
});
