import { sql } from "drizzle-orm";
import { boolean, integer, pgTable, text, uniqueIndex } from "drizzle-orm/pg-core";

/** All that access to a document is decided on, interned: a document carries only its class's id. */
export const accessClass = pgTable(
  "access_class",
  {
    id: integer("id").primaryKey().generatedAlwaysAsIdentity(),
    company: text("company").notNull(),
    documentType: text("document_type").notNull(),
    confidential: boolean("confidential").notNull(),
    /** Types of its clips' records, sorted, each once. */
    recordTypes: text("record_types")
      .array()
      .notNull()
      .default(sql`'{}'::text[]`),
  },
  (t) => [uniqueIndex("access_class_is_interned").on(t.company, t.documentType, t.confidential, t.recordTypes)],
);
