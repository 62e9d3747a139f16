import { boolean, jsonb, pgTable, primaryKey, real, text, uuid } from "drizzle-orm/pg-core";
import { arrival } from "../arrivals/tables.ts";
import { instant, whole } from "../db/column-types.ts";
import { document } from "../documents/tables.ts";

/** Documents of one type in one queue that are filed without a person. */
export const automaticFiling = pgTable(
  "hands_free",
  {
    queue: text("queue").notNull(),
    documentType: text("document_type").notNull(),
    isOn: boolean("is_on").notNull().default(false),
    asked: real("asked").notNull(),
    heldBack: real("held_back").notNull(),
    secret: text("secret").notNull(),
    lentBy: text("lent_by").notNull(),
    changedAt: instant("changed_at").notNull(),
    offWhy: jsonb("off_why"),
  },
  (t) => [primaryKey({ columns: [t.queue, t.documentType] })],
);

/** What the program would have done with a document, or did, and what a person made of it. */
export const automaticFilingCase = pgTable("hands_free_paper", {
  arrivalId: uuid("arrival_id")
    .primaryKey()
    .references(() => arrival.id),
  documentId: whole("document_id").references(() => document.id),
  queue: text("queue").notNull(),
  documentType: text("document_type").notNull(),
  how: text("how").notNull(),
  state: text("state").notNull(),
  wouldFile: boolean("would_file").notNull(),
  why: text("why"),
  decided: jsonb("decided"),
  differences: jsonb("differences"),
  at: instant("at").notNull(),
  checkedAt: instant("checked_at"),
});
