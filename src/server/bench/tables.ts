import { sql } from "drizzle-orm";
import { check, index, integer, pgTable, primaryKey, smallint, uuid } from "drizzle-orm/pg-core";
import { arrival } from "../arrivals/tables.ts";
import { whole } from "../db/column-types.ts";
import { document } from "../documents/tables.ts";

/** Where each page of what the bench made came from (promise 2). Rows are never changed. */
export const arrivalPage = pgTable(
  "arrival_page",
  {
    arrivalId: uuid("arrival_id")
      .notNull()
      .references(() => arrival.id),
    number: integer("number").notNull(),
    fromArrival: uuid("from_arrival").references(() => arrival.id),
    fromDocument: whole("from_document").references(() => document.id),
    fromVersion: integer("from_version"),
    fromPage: integer("from_page").notNull(),
    turn: smallint("turn").notNull().default(0),
  },
  (t) => [
    primaryKey({ columns: [t.arrivalId, t.number] }),
    index("arrival_page_from_arrival").on(t.fromArrival),
    index("arrival_page_from_document").on(t.fromDocument),
    check("arrival_page_turn", sql`${t.turn} in (0,90,180,270)`),
    check("arrival_page_one_source", sql`num_nonnulls(${t.fromArrival}, ${t.fromDocument}) = 1`),
  ],
);
