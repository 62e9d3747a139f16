import { type SQL, sql } from "drizzle-orm";
import { recordFilter } from "../access/filters.ts";
import type { Actor } from "../people/load-actor.ts";

/** Condition on `record` for those that sit right beneath a record named as `type:key`. One that the person may not see has nothing beneath it for them. */
export function rightBeneath(actor: Actor, above: string): SQL {
  const cut = above.indexOf(":");
  return sql`record.above_id in (select a.id from record a where a.type = ${above.slice(0, cut)} and a.key = ${above.slice(cut + 1)}
    and ${recordFilter(actor, "see", sql`a`)})`;
}
