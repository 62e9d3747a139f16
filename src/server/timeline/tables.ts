import { sql } from "drizzle-orm";
import { bigserial, index, integer, jsonb, pgTable, text, uuid } from "drizzle-orm/pg-core";
import { instant, whole } from "../db/column-types.ts";

/** Everything that happened. Rows are only added; a trigger refuses the rest, and seals find what was changed behind its back. */
export const timelineLine = pgTable(
  "timeline_line",
  {
    id: bigserial("id", { mode: "number" }).primaryKey(),
    at: instant("at").notNull(),
    /** Person id, or "amber-clip" for the program itself. */
    who: text("who").notNull(),
    company: text("company"),
    verb: text("verb").notNull(),
    documentId: whole("document_id"),
    recordId: whole("record_id"),
    arrivalId: uuid("arrival_id"),
    details: jsonb("details")
      .notNull()
      .default(sql`'{}'::jsonb`),
    sealId: whole("seal_id"),
  },
  (t) => [
    index("timeline_document")
      .on(t.documentId, t.id)
      .where(sql`${t.documentId} is not null`),
    index("timeline_record")
      .on(t.recordId, t.id)
      .where(sql`${t.recordId} is not null`),
    index("timeline_arrival")
      .on(t.arrivalId, t.id)
      .where(sql`${t.arrivalId} is not null`),
    index("timeline_unsealed")
      .on(t.id)
      .where(sql`${t.sealId} is null`),
    index("timeline_line_seal")
      .on(t.sealId)
      .where(sql`${t.sealId} is not null`),
  ],
);

/** A batch of lines, chained to the batch before it by hash. */
export const timelineSeal = pgTable("timeline_seal", {
  id: bigserial("id", { mode: "number" }).primaryKey(),
  lineCount: integer("line_count").notNull(),
  hash: text("hash").notNull(),
  madeAt: instant("made_at").notNull().defaultNow(),
});
