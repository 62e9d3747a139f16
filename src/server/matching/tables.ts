import { sql } from "drizzle-orm";
import { bigserial, boolean, index, integer, jsonb, pgTable, real, text, uniqueIndex, uuid } from "drizzle-orm/pg-core";
import { arrival } from "../arrivals/tables.ts";
import { instant, whole } from "../db/column-types.ts";
import { record } from "../records/tables.ts";

const list = sql`'[]'::jsonb`;

/** What was read off an arrival, and the records it may belong to. */
export const arrivalReading = pgTable(
  "arrival_reading",
  {
    arrivalId: uuid("arrival_id")
      .primaryKey()
      .references(() => arrival.id),
    readings: jsonb("readings").notNull().default(list),
    doubts: jsonb("doubts").notNull().default(list),
    types: jsonb("types").notNull().default(list),
    suggestions: jsonb("suggestions").notNull().default(list),
    /** Lines of goods, and invoices of a statement: PaperRows. */
    rows: jsonb("rows"),
    /** Probability that it belongs to none of our records. */
    none: real("none").notNull().default(1),
    senderId: whole("sender_id").references(() => record.id, { onDelete: "set null" }),
    senderKey: text("sender_key"),
    probes: text("probes")
      .array()
      .notNull()
      .default(sql`'{}'`),
    weightsVersion: integer("weights_version").notNull(),
    madeAt: instant("made_at").notNull(),
  },
  (t) => [index("arrival_reading_probes").using("gin", t.probes)],
);

/** What reading an arrival gave, kept while it waits: see kept-look.ts. */
export const arrivalLook = pgTable("arrival_look", {
  arrivalId: uuid("arrival_id")
    .primaryKey()
    .references(() => arrival.id, { onDelete: "cascade" }),
  /** Of what it was made: when that is another, so is the look. */
  stamp: text("stamp").notNull(),
  madeAt: instant("made_at").notNull(),
  body: text("body").notNull(),
});

/** Where senders keep their fields, each from a document that a person confirmed. */
export const fieldPlace = pgTable(
  "field_place",
  {
    id: bigserial("id", { mode: "number" }).primaryKey(),
    senderKey: text("sender_key").notNull(),
    arrivalId: uuid("arrival_id")
      .notNull()
      .references(() => arrival.id),
    field: text("field").notNull(),
    value: text("value").notNull(),
    page: text("page").notNull(),
    label: text("label"),
    relation: text("relation"),
    x: real("x").notNull(),
    y: real("y").notNull(),
    right: real("right_edge").notNull(),
    shape: text("shape").notNull(),
    wasRight: boolean("was_right"),
    madeAt: instant("made_at").notNull(),
    madeBy: text("made_by").notNull(),
  },
  (t) => [index("field_place_sender").on(t.senderKey, t.id.desc()), uniqueIndex("field_place_once").on(t.arrivalId, t.field, t.value)],
);

/** How much each kind of evidence weighs, as learnt. */
export const matchWeights = pgTable("match_weights", {
  version: integer("version").primaryKey(),
  weights: jsonb("weights").notNull(),
  papers: integer("papers").notNull(),
  before: real("before").notNull(),
  after: real("after").notNull(),
  isUsed: boolean("is_used").notNull(),
  madeAt: instant("made_at").notNull(),
  madeBy: text("made_by").notNull(),
});

/** Senders whose layouts an administrator had forgotten. */
export const forgottenSender = pgTable("forgotten_sender", {
  senderKey: text("sender_key").primaryKey(),
  forgottenAt: instant("forgotten_at").notNull(),
  forgottenBy: text("forgotten_by").notNull(),
});
