import { sql } from "drizzle-orm";
import {
  bigint,
  bigserial,
  boolean,
  check,
  date,
  doublePrecision,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  real,
  smallint,
  text,
  uniqueIndex,
} from "drizzle-orm/pg-core";
import { accessClass } from "../access/tables.ts";
import { instant, whole } from "../db/column-types.ts";
import { company } from "../people/tables.ts";

export const documentType = pgTable("document_type", {
  key: text("key").primaryKey(),
  definition: jsonb("definition").notNull(),
  order: integer("order").notNull(),
});

/** The bytes of one file, known by their hash, and what reading found in them. Shared by all that hold the same bytes. */
export const content = pgTable(
  "content",
  {
    sha256: text("sha256").primaryKey(),
    sizeBytes: whole("size_bytes").notNull(),
    kind: text("kind"),
    mediaType: text("media_type"),
    /** unread, read or failed. */
    state: text("state").notNull().default("unread"),
    problem: jsonb("problem"),
    pages: integer("pages"),
    /** Running text, cut at the reader's limit. */
    body: text("body"),
    /** What a viewer needs beyond pages: tables of a workbook, parts of a mail. */
    outline: jsonb("outline"),
    readAt: instant("read_at"),
    /** Whether its bytes are in the landing store. When not, they are read from where it is placed. */
    isLanded: boolean("is_landed").notNull().default(true),
    /** Whether the pictures of its pages were looked at (for words, barcodes, ink): no, going, yes, or stopped by a person. */
    looked: text("looked").notNull().default("no"),
    /** Where a bundle probably falls apart, as proposeCuts says. */
    cuts: jsonb("cuts")
      .notNull()
      .default(sql`'[]'::jsonb`),
  },
  (t) => [
    check("content_sha256_is_hex", sql`${t.sha256} ~ '^[0-9a-f]{64}$'`),
    check("content_looked", sql`${t.looked} in ('no','going','yes','stopped')`),
    check("content_state", sql`${t.state} in ('unread','read','failed')`),
  ],
);

/** One page of a content: size as displayed, in points, and its words with their boxes. */
export const contentPage = pgTable(
  "content_page",
  {
    sha256: text("sha256")
      .notNull()
      .references(() => content.sha256),
    number: integer("number").notNull(),
    widthPoints: doublePrecision("width_points").notNull(),
    heightPoints: doublePrecision("height_points").notNull(),
    /** `[text, x, y, width, height]` for each word. */
    words: jsonb("words").notNull(),
    /** Where its words are from: its own text layer, its picture, or it has none; null while its picture was not looked at and has to be. */
    wordsFrom: text("words_from"),
    /** Share of its area with ink on it, 0 to 1; null while not looked at. */
    ink: real("ink"),
    /** Barcodes on it, as PageCode. */
    codes: jsonb("codes")
      .notNull()
      .default(sql`'[]'::jsonb`),
    /** Degrees clockwise it has to be turned to stand upright. */
    turn: smallint("turn").notNull().default(0),
    /** Degrees its lines run down to the right. */
    slant: real("slant"),
    /** What it looks like, in 64 bits; pages that look alike differ in few of them. */
    print: bigint("print", { mode: "bigint" }),
  },
  (t) => [
    primaryKey({ columns: [t.sha256, t.number] }),
    check("content_page_words_from", sql`${t.wordsFrom} in ('layer','picture','none')`),
    check("content_page_turn", sql`${t.turn} in (0,90,180,270)`),
  ],
);

/** What a content says, as a few numbers; see core/matching/text-fingerprint.ts. */
export const contentPrint = pgTable(
  "content_print",
  {
    sha256: text("sha256")
      .primaryKey()
      .references(() => content.sha256),
    /** Hash of all its words. */
    textHash: bigint("text_hash", { mode: "bigint" }),
    /** What its first page looks like, for pictures without words. */
    picture: bigint("picture", { mode: "bigint" }),
    least: integer("least").array(),
    bands: integer("bands")
      .array()
      .notNull()
      .default(sql`'{}'`),
  },
  (t) => [index("content_print_text").on(t.textHash), index("content_print_bands").using("gin", t.bands)],
);

export const document = pgTable(
  "document",
  {
    id: bigserial("id", { mode: "number" }).primaryKey(),
    code: text("code").notNull().unique(),
    company: text("company")
      .notNull()
      .references(() => company.code),
    documentType: text("document_type")
      .notNull()
      .references(() => documentType.key),
    /** False while nobody has said what kind of document it is: it came from the repository itself. */
    typeSaid: boolean("type_said").notNull().default(true),
    title: text("title").notNull(),
    /** Whether a person wrote the title; else it follows its type's pattern. Null for documents filed before this was kept. */
    titleSaid: boolean("title_said"),
    properties: jsonb("properties")
      .notNull()
      .default(sql`'{}'::jsonb`),
    confidential: boolean("confidential").notNull().default(false),
    aclId: integer("acl_id")
      .notNull()
      .references(() => accessClass.id),
    lifecycle: text("lifecycle").notNull().default("released"),
    currentVersion: integer("current_version").notNull().default(1),
    /** The paper's own date, else the day of filing. */
    documentDate: date("document_date", { mode: "string" }),
    filedAt: instant("filed_at").notNull(),
    filedBy: text("filed_by").notNull(),
    changedAt: instant("changed_at").notNull().defaultNow(),
    /** Off its records and back in Arrivals; kept for the timeline. */
    unfiledAt: instant("unfiled_at"),
  },
  (t) => [
    index("document_filed").on(t.filedAt.desc()),
    index("document_filed_by").on(t.filedBy, t.filedAt.desc()),
    index("document_by_type").on(t.documentType, t.id.desc()),
    index("document_class")
      .on(t.aclId)
      .where(sql`unfiled_at is null`),
    check("document_lifecycle", sql`${t.lifecycle} in ('draft','under review','released','superseded','withdrawn')`),
  ],
);

/** An immutable file of a document. */
export const documentVersion = pgTable(
  "document_version",
  {
    documentId: whole("document_id")
      .notNull()
      .references(() => document.id),
    number: integer("number").notNull(),
    sha256: text("sha256")
      .notNull()
      .references(() => content.sha256),
    fileName: text("file_name").notNull(),
    madeAt: instant("made_at").notNull(),
    madeBy: text("made_by").notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.documentId, t.number] }),
    index("document_version_content").on(t.sha256),
    uniqueIndex("document_version_once").on(t.documentId, t.sha256),
  ],
);
