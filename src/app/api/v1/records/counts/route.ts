import { ok } from "#core/shared/result.ts";
import { documentFilter } from "#server/access/filters.ts";
import { door } from "#server/api/door.ts";
import { countRecords } from "#server/records/list-records.ts";
import { sql } from "drizzle-orm";

export const GET = door("recordCounts", async ({ actor, query }) =>
  ok({ items: await countRecords(actor, query.company, await documentFilter(actor, "see", sql`d.acl_id`)), next: null }),
);
