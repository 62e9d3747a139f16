import { bigserial, boolean, date, integer, jsonb, pgTable, primaryKey, smallint, text } from "drizzle-orm/pg-core";
import { instant, whole } from "../db/column-types.ts";
import { document } from "../documents/tables.ts";
import { record, recordType } from "../records/tables.ts";

/** What documents records of a type must have. */
export const checklist = pgTable("checklist", {
  recordType: text("record_type")
    .primaryKey()
    .references(() => recordType.key),
  version: integer("version").notNull(),
  rules: jsonb("rules").notNull(),
  /** Bits that were ever given to an item of the type. */
  usedBits: integer("used_bits").array().notNull().default([]),
  looksAlongChain: boolean("looks_along_chain").notNull().default(false),
  changedAt: instant("changed_at").notNull(),
  changedBy: text("changed_by").notNull(),
});

/** An item added by hand on one record. */
export const ownItem = pgTable(
  "own_item",
  {
    recordId: whole("record_id")
      .notNull()
      .references(() => record.id),
    place: smallint("place").notNull(),
    label: text("label").notNull(),
    documentTypes: text("document_types").array().notNull(),
    dueOn: date("due_on", { mode: "string" }),
    madeAt: instant("made_at").notNull(),
    madeBy: text("made_by").notNull(),
  },
  (t) => [primaryKey({ columns: [t.recordId, t.place] })],
);

/** What people said about an item of one record. */
export const itemDecision = pgTable("item_decision", {
  id: bigserial("id", { mode: "number" }).primaryKey(),
  recordId: whole("record_id")
    .notNull()
    .references(() => record.id),
  item: text("item").notNull(),
  kind: text("kind").notNull(),
  documentId: whole("document_id").references(() => document.id),
  reason: text("reason"),
  at: instant("at").notNull(),
  by: text("by").notNull(),
});
