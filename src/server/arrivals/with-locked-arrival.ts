import { eq, type SQL, sql } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { refuse, type Result } from "#core/shared/result.ts";
import { arrivalFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { arrival } from "./tables.ts";

export type Row = typeof arrival.$inferSelect;
type Transaction = Parameters<Parameters<ReturnType<typeof db>["transaction"]>[0]>[0];

/** One arrival under the person's filter, locked for the change; what is not seen is not there. */
export async function withLockedArrival<T>(
  actor: Actor,
  id: ArrivalId,
  act: (tx: Transaction, row: Row) => Promise<Result<T>>,
): Promise<Result<T>> {
  const filter: SQL = await arrivalFilter(actor);
  if (!allowsAnywhere(actor.grants, "file") && !allowsAnywhere(actor.grants, "add")) return refuse("not-allowed");
  return db().transaction(async (tx) => {
    const rows = await tx
      .select()
      .from(arrival)
      .where(sql`${eq(arrival.id, id)} and ${filter}`)
      .for("update");
    const row = rows[0];
    return row ? act(tx, row) : refuse("not-found");
  });
}
