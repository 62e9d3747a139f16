import { type SQL, sql } from "drizzle-orm";
import { recordFilter } from "../access/filters.ts";
import type { Actor } from "../people/load-actor.ts";

/** Condition on `record` for those that sit right beneath a record named as `type:key`. One that the person may not see has nothing beneath it for them. */
export function isDirectChildOf(actor: Actor, parent: string): SQL {
  const cut = parent.indexOf(":");
  return sql`record.above_id in (select a.id from record a where a.type = ${parent.slice(0, cut)} and a.key = ${parent.slice(cut + 1)}
    and ${recordFilter(actor, "see", sql`a`)})`;
}
