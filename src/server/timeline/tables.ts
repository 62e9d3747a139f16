import { sql } from "drizzle-orm";
import { bigserial, index, integer, jsonb, pgTable, text, uuid } from "drizzle-orm/pg-core";
import { instant, longRanges, whole } from "../db/column-types.ts";

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
  ],
);

/** A batch of lines, chained to the batch before it by hash. Which lines it holds is said here: a line is never written again. */
export const timelineSeal = pgTable(
  "timeline_seal",
  {
    id: bigserial("id", { mode: "number" }).primaryKey(),
    lineCount: integer("line_count").notNull(),
    /** Ids of its lines. */
    lines: longRanges("lines").notNull(),
    /** All lines of this seal and of those before it have ids below this one. */
    below: whole("below").notNull(),
    hash: text("hash").notNull(),
    madeAt: instant("made_at").notNull().defaultNow(),
  },
  (t) => [index("timeline_seal_made").on(t.madeAt)],
);
