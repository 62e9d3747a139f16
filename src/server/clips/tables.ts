import { boolean, index, integer, pgTable, primaryKey, text } from "drizzle-orm/pg-core";
import { instant, whole } from "../db/column-types.ts";
import { document } from "../documents/tables.ts";
import { record } from "../records/tables.ts";

/** A document is clipped to a record. Position 0 is the clip that decides where it is placed. */
export const clip = pgTable(
  "clip",
  {
    documentId: whole("document_id")
      .notNull()
      .references(() => document.id),
    recordId: whole("record_id")
      .notNull()
      .references(() => record.id),
    position: integer("position").notNull(),
    section: text("section"),
    /** Record types along the chain, above and beneath that see it too. */
    reach: text("reach").array().notNull().default([]),
    /** What somebody noted on it. */
    note: text("note"),
    madeAt: instant("made_at").notNull(),
    madeBy: text("made_by").notNull(),
  },
  (t) => [primaryKey({ columns: [t.documentId, t.recordId] }), index("clip_record").on(t.recordId, t.documentId)],
);

/** Maintained: documents clipped to a record or to anything beneath it. One row for each record above. */
export const childDocument = pgTable(
  "beneath_document",
  {
    recordId: whole("record_id")
      .notNull()
      .references(() => record.id),
    documentId: whole("document_id")
      .notNull()
      .references(() => document.id),
    aclId: integer("acl_id").notNull(),
    /** A clip beneath reaches up to records of this one's type. */
    reaches: boolean("reaches").notNull().default(false),
  },
  (t) => [primaryKey({ columns: [t.recordId, t.documentId] }), index("beneath_document_document").on(t.documentId)],
);
