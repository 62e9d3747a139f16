import { sql } from "drizzle-orm";
import { bigint, check, index, pgTable, text, uniqueIndex } from "drizzle-orm/pg-core";
import { instant, whole } from "../db/column-types.ts";
import { documentType } from "../documents/tables.ts";
import { record } from "../records/tables.ts";

/** Codes on cover sheets and labels. The same record and document type always has the same code; rows are never removed: document lasts. */
export const ownCode = pgTable(
  "own_code",
  {
    number: bigint("number", { mode: "number" }).primaryKey().generatedAlwaysAsIdentity(),
    kind: text("kind").notNull(),
    recordId: whole("record_id")
      .notNull()
      .references(() => record.id),
    /** Null when it says only the record. */
    documentType: text("document_type").references(() => documentType.key),
    madeAt: instant("made_at").notNull(),
    madeBy: text("made_by").notNull(),
  },
  (t) => [
    check("own_code_kind", sql`${t.kind} in ('coverSheet','label')`),
    uniqueIndex("own_code_once").on(t.kind, t.recordId, sql`coalesce(${t.documentType}, '')`),
    index("own_code_record").on(t.recordId),
  ],
);
