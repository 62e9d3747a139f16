import { sql } from "drizzle-orm";
import { integer, jsonb, pgTable, text, uuid } from "drizzle-orm/pg-core";
import { arrival } from "../arrivals/tables.ts";
import { instant, whole } from "../db/column-types.ts";
import { record } from "../records/tables.ts";

/** A record that was made here from a document, on its way to the business system. */
export const draft = pgTable("draft", {
  id: uuid("id").primaryKey(),
  recordId: whole("record_id")
    .notNull()
    .references(() => record.id),
  arrivalId: uuid("arrival_id")
    .notNull()
    .references(() => arrival.id),
  company: text("company").notNull(),
  type: text("type").notNull(),
  key: text("key").notNull(),
  state: text("state").notNull(),
  sources: jsonb("sources")
    .notNull()
    .default(sql`'{}'::jsonb`),
  follows: jsonb("follows")
    .notNull()
    .default(sql`'[]'::jsonb`),
  reasons: jsonb("reasons")
    .notNull()
    .default(sql`'[]'::jsonb`),
  problem: text("problem"),
  attempts: integer("attempts").notNull().default(0),
  nextTryAt: instant("next_try_at"),
  /** When it was first begun to be sent; null while it can be taken back as if it had never been made. */
  begunAt: instant("begun_at"),
  madeBy: text("made_by").notNull(),
  madeAt: instant("made_at").notNull(),
  answeredAt: instant("answered_at"),
});

/** Messages of the business system that were taken. */
export const businessEvent = pgTable("business_event", {
  id: uuid("id").primaryKey(),
  takenAt: instant("taken_at").notNull(),
});
