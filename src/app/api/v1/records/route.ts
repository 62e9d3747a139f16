import { sql } from "drizzle-orm";
import { ok } from "#core/shared/result.ts";
import { documentFilter } from "#server/access/filters.ts";
import { door, pageOf } from "#server/api/door.ts";
import { listRecords } from "#server/records/list-records.ts";

export const GET = door("records", async ({ actor, query }) => {
  const offset = Number(query.cursor ?? 0);
  const { order, ...wish } = query;
  const found = await listRecords(
    actor,
    { ...wish, ...(order ? { down: order === "down" } : {}), offset },
    await documentFilter(actor, "see", sql`d.acl_id`),
  );
  return ok(pageOf(found.items, found.total, offset));
});
