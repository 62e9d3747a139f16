import { sql } from "drizzle-orm";
import {
  type AnyPgColumn,
  bigserial,
  char,
  date,
  index,
  integer,
  jsonb,
  numeric,
  pgTable,
  primaryKey,
  smallint,
  text,
  uniqueIndex,
} from "drizzle-orm/pg-core";
import { instant, whole } from "../db/column-types.ts";
import { company } from "../people/tables.ts";

export const recordType = pgTable("record_type", {
  key: text("key").primaryKey(),
  definition: jsonb("definition").notNull(),
  order: integer("order").notNull(),
});

/** A business record, as the business system last told it. */
export const record = pgTable(
  "record",
  {
    id: bigserial("id", { mode: "number" }).primaryKey(),
    company: text("company")
      .notNull()
      .references(() => company.code),
    type: text("type")
      .notNull()
      .references(() => recordType.key),
    key: text("key").notNull(),
    title: text("title").notNull(),
    status: text("status"),
    date: date("date", { mode: "string" }),
    amount: numeric("amount", { precision: 18, scale: 2 }),
    currency: char("currency", { length: 3 }),
    fields: jsonb("fields")
      .notNull()
      .default(sql`'{}'::jsonb`),
    /** What was ordered, received or invoiced, line by line; null where the business system tells none. */
    lines: jsonb("lines"),
    parentId: whole("above_id").references((): AnyPgColumn => record.id),
    /** Records that follow from each other share it; it is the smallest id among them. */
    chainId: whole("chain_id"),
    /** Who answers for it; null: whoever answers for the account above. */
    responsibleId: text("responsible_id"),
    /** Key without punctuation, folded; for look-up by its beginning. */
    keyFolded: text("key_folded").notNull(),
    titleFolded: text("title_folded").notNull(),
    /** Key, title and all field values, folded; for look-up by any of them. */
    lookupText: text("lookup_text").notNull(),
    /** Documents clipped to it. Kept by attach-clip; checked by the check-and-repair command. */
    documentCount: integer("document_count").notNull().default(0),
    /** When somebody last filed to it or the business system last sent it: recent ones come first. */
    usedAt: instant("used_at").notNull().defaultNow(),
    /** With which version of the rules its references were entered. */
    referencesVersion: smallint("references_version").notNull().default(0),
    madeAt: instant("made_at").notNull().defaultNow(),
    changedAt: instant("changed_at").notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex("record_key").on(t.company, t.type, t.key),
    index("record_above").on(t.parentId),
    index("record_chain_types")
      .on(t.chainId, t.type, t.id)
      .where(sql`chain_id is not null`),
    index("record_recent").on(t.company, t.type, t.usedAt, t.id),
    index("record_by_title").on(t.company, t.type, t.titleFolded, t.id),
    index("record_by_date").on(t.company, t.type, t.date, t.id),
    index("record_by_amount").on(t.company, t.type, t.amount, t.id),
    index("record_by_papers").on(t.company, t.type, t.documentCount, t.id),
    index("record_used").on(t.usedAt.desc()),
    index("record_key_folded").on(sql`${t.keyFolded} text_pattern_ops`),
    index("record_title_folded").on(sql`${t.titleFolded} text_pattern_ops`),
    index("record_lookup").using("gin", sql`${t.lookupText} gin_trgm_ops`),
  ],
);

/** How many records of a type a company has, as additions that the database enters with each statement; their sum holds. */
export const recordTally = pgTable("record_tally", {
  company: text("company").notNull(),
  type: text("type").notNull(),
  count: whole("count").notNull(),
});

/** One record follows from an earlier one: invoice from delivery, delivery from order. */
export const recordFollow = pgTable(
  "record_follow",
  {
    recordId: whole("record_id")
      .notNull()
      .references(() => record.id),
    earlierId: whole("earlier_id")
      .notNull()
      .references(() => record.id),
  },
  (t) => [primaryKey({ columns: [t.recordId, t.earlierId] }), index("record_follow_earlier").on(t.earlierId)],
);

/** What a record can be recognised by on a document; see core/records/record-references.ts. */
export const recordReference = pgTable(
  "record_reference",
  {
    recordId: whole("record_id")
      .notNull()
      .references(() => record.id, { onDelete: "cascade" }),
    kind: text("kind").notNull(),
    reference: text("reference").notNull(),
  },
  (t) => [primaryKey({ columns: [t.recordId, t.kind, t.reference] }), index("record_reference_by").on(t.reference, t.kind)],
);

/** Words in titles, for look-up despite typing errors. */
export const titleWord = pgTable(
  "title_word",
  {
    word: text("word").primaryKey(),
  },
  (t) => [index("title_word_trigram").using("gin", sql`${t.word} gin_trgm_ops`)],
);
