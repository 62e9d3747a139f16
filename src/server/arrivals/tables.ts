import { sql } from "drizzle-orm";
import { type AnyPgColumn, boolean, check, index, integer, jsonb, pgTable, primaryKey, text, uniqueIndex, uuid } from "drizzle-orm/pg-core";
import { instant, whole } from "../db/column-types.ts";
import { content, document } from "../documents/tables.ts";
import { company, user } from "../people/tables.ts";
import { record } from "../records/tables.ts";

export const queue = pgTable("queue", {
  key: text("key").primaryKey(),
  label: text("label").notNull(),
  order: integer("order").notNull(),
  defaultDocumentType: text("default_document_type"),
  /** What is kept of a mail: messageAndParts, partsOnly, or ask: a person says. */
  mailKeeps: text("mail_keeps").notNull().default("messageAndParts"),
  /** Who may send mail here: addresses and @domains; nobody named is open to all. */
  mailSenders: text("mail_senders").array().notNull().default([]),
  /** What becomes of files in its watched folder: keep, done or remove; null when none is watched. */
  watchAfter: text("watch_after"),
  /** Who allowed that documents are filed by what their cover sheets and labels say, with their rights; null when nobody did. */
  codesBy: text("codes_by").references(() => user.id, { onDelete: "set null" }),
  /** Whether the blank pages of scans are left out as they come in. */
  leavesOutBlanks: boolean("leaves_out_blanks").notNull().default(false),
  /** Own limits, narrower than the general ones; null for those. */
  limits: jsonb("limits"),
});

/** Files of watched folders that stay where they are: those that were taken, and those that are not taken, with the reason. */
export const watchedFile = pgTable(
  "watched_file",
  {
    queue: text("queue")
      .notNull()
      .references(() => queue.key),
    /** Below the queue's folder. */
    path: text("path").notNull(),
    sizeBytes: whole("size_bytes").notNull(),
    modifiedMs: whole("modified_ms").notNull(),
    sha256: text("sha256"),
    /** Why it is not taken; null when it was. */
    why: text("why"),
    seenAt: instant("seen_at").notNull(),
  },
  (t) => [primaryKey({ columns: [t.queue, t.path] })],
);

export const queueMember = pgTable(
  "queue_member",
  {
    queue: text("queue")
      .notNull()
      .references(() => queue.key),
    personId: text("person_id")
      .notNull()
      .references(() => user.id, { onDelete: "cascade" }),
  },
  (t) => [primaryKey({ columns: [t.queue, t.personId] }), index("queue_member_person").on(t.personId)],
);

/** The register: every arrival there ever was. Rows are never deleted. */
export const arrival = pgTable(
  "arrival",
  {
    id: uuid("id").primaryKey(),
    /** Order of coming in; never reused. */
    number: whole("number").notNull().generatedAlwaysAsIdentity(),
    parentId: uuid("parent_id").references((): AnyPgColumn => arrival.id),
    /** Which part of its parent it is, from 1. */
    part: integer("part"),
    company: text("company").references(() => company.code),
    queue: text("queue")
      .notNull()
      .references(() => queue.key),
    source: text("source").notNull(),
    sender: text("sender"),
    note: text("note"),
    fileName: text("file_name").notNull(),
    sha256: text("sha256")
      .notNull()
      .references(() => content.sha256),
    sizeBytes: whole("size_bytes").notNull(),
    state: text("state").notNull().default("waiting"),
    problem: jsonb("problem"),
    /** Said on the way in: the record and document type it belongs to. */
    recordId: whole("record_id").references(() => record.id),
    documentType: text("document_type"),
    receivedAt: instant("received_at").notNull(),
    receivedBy: text("received_by"),
    readyAt: instant("ready_at"),
    endedAt: instant("ended_at"),
    endedBy: text("ended_by"),
    endReason: text("end_reason"),
    documentId: whole("document_id").references(() => document.id),
    /** Inline logos and the like: part of a mail, not for filing. */
    aside: boolean("aside").notNull().default(false),
    /** Who works on it, and until when nobody else files it. */
    claimedBy: text("claimed_by").references(() => user.id, { onDelete: "set null" }),
    claimedUntil: instant("claimed_until"),
    /** Handed over: to whom (null: to a queue), by whom, with what word. */
    handedTo: text("handed_to").references(() => user.id, { onDelete: "set null" }),
    handedBy: text("handed_by"),
    handedWord: text("handed_word"),
    handedAt: instant("handed_at"),
    /** A person said that it is another document than those it looks like. */
    toldApart: boolean("told_apart").notNull().default(false),
    /** What is known of a message that came by mail beside its content. */
    mail: jsonb("mail"),
  },
  (t) => [
    index("arrival_open")
      .on(t.queue, t.receivedAt.desc())
      .where(sql`${t.state} in ('waiting','reading','ready','failed')`),
    index("arrival_received").on(t.receivedAt.desc(), t.number.desc()),
    index("arrival_content").on(t.sha256),
    index("arrival_document").on(t.documentId),
    index("arrival_handed_to")
      .on(t.handedTo)
      .where(sql`${t.handedTo} is not null`),
    uniqueIndex("arrival_part_once").on(t.parentId, t.part),
    check("arrival_state_known", sql`${t.state} in ('waiting','reading','ready','failed','filed','setAside','split','joined')`),
  ],
);

/** Senders whose mail is marked as junk. */
export const junkSender = pgTable("junk_sender", {
  address: text("address").primaryKey(),
  /** The arrival that taught it; restoring that one takes it back. */
  arrivalId: uuid("arrival_id").references(() => arrival.id),
  taughtAt: instant("taught_at").notNull(),
  taughtBy: text("taught_by").notNull(),
});
