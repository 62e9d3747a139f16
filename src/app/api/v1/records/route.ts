import { sql } from "drizzle-orm";
import { ok } from "#core/shared/result.ts";
import { documentFilter } from "#server/access/filters.ts";
import { door, pageOf } from "#server/api/door.ts";
import { recordsCsv } from "#server/api/records-csv.ts";
import { listRecords } from "#server/records/list-records.ts";

export const GET = door("records", async ({ actor, query, request }) => {
  const offset = Number(query.cursor ?? 0);
  const { order, ...wish } = query;
  const asked = { ...wish, ...(order ? { down: order === "down" } : {}) };
  const seen = await documentFilter(actor, "see", sql`d.acl_id`);
  if ((request.headers.get("accept") ?? "").includes("text/csv")) return recordsCsv(actor, asked, seen);
  const found = await listRecords(actor, { ...asked, offset }, seen);
  const page = pageOf(found.items, found.total, offset);
  // There are more than were counted: it goes on as long as pages are full.
  const next = !found.totalIsExact && found.items.length === query.limit ? String(offset + query.limit) : page.next;
  return ok({ ...page, next, totalIsExact: found.totalIsExact });
});
