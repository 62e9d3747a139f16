import { sql } from "drizzle-orm";
import { bigint, boolean, check, index, integer, jsonb, pgTable, pgView, primaryKey, text, uniqueIndex, uuid } from "drizzle-orm/pg-core";
import { instant, whole, wholeRanges } from "../db/column-types.ts";
import { document } from "../documents/tables.ts";
import { record, recordType } from "../records/tables.ts";

/** A repository and how to reach it. */
export const connection = pgTable("connection", {
  key: text("key").primaryKey(),
  label: text("label").notNull(),
  /** disk, webdav or bucket. */
  kind: text("kind").notNull(),
  /** Address and root; checked by its kind's schema. Never holds a secret. */
  settings: jsonb("settings")
    .notNull()
    .default(sql`'{}'::jsonb`),
  /** Password or secret key, encrypted; never given out. */
  secret: text("secret"),
  /** How it is watched, how long local copies are kept, what stands for a document in further folders. */
  options: jsonb("options")
    .notNull()
    .default(sql`'{}'::jsonb`),
  /** Where a set-up that is not finished was left; null when it is in use. */
  setUp: jsonb("set_up"),
  /** When its place was marked as ours. */
  preparedAt: instant("prepared_at"),
  /** When it was last looked through, and what came of it. */
  scannedAt: instant("scanned_at"),
  scanned: jsonb("scanned"),
  changedAt: instant("changed_at").notNull().defaultNow(),
});

/** Every version of every folder rule; the highest is the one in force. */
export const folderRule = pgTable(
  "folder_rule",
  {
    recordType: text("record_type")
      .notNull()
      .references(() => recordType.key),
    version: integer("version").notNull(),
    rule: jsonb("rule").notNull(),
    madeAt: instant("made_at").notNull().defaultNow(),
    madeBy: text("made_by").notNull(),
  },
  (t) => [primaryKey({ columns: [t.recordType, t.version] })],
);

/** A folder that documents stand in: a record's own (one each), one within it, or a shelf. No two of anything ever share one. */
export const folder = pgTable(
  "folder",
  {
    id: whole("id").primaryKey().generatedAlwaysAsIdentity(),
    /** The record whose documents stand in it; null for a shelf. */
    recordId: whole("record_id").references(() => record.id),
    connection: text("connection")
      .notNull()
      .references(() => connection.key),
    path: text("path").notNull(),
    /** Path with case, Unicode form and trailing dots folded. */
    pathFolded: text("path_folded").notNull(),
    /** record: the record's own. within: one inside it, or one it had before. shelf: of no record. */
    kind: text("kind").notNull().default("record"),
    /** Versions of the rules that made it, along the records above. */
    ruleStamp: text("rule_stamp").notNull(),
    /** Company and confidentiality of a shelf. */
    company: text("company"),
    isConfidential: boolean("is_confidential").notNull().default(false),
    /** What a listing of it looked like when it and the database last agreed. */
    digest: text("digest"),
    checkedAt: instant("checked_at"),
    madeAt: instant("made_at").notNull().defaultNow(),
  },
  (t) => [
    uniqueIndex("folder_is_one_records").on(t.connection, t.pathFolded),
    check("folder_kind_known", sql`${t.kind} in ('record','within','shelf')`),
    check("folder_of_record", sql`(${t.kind} = 'shelf') = (${t.recordId} is null)`),
  ],
);

/**
 * Which folders are a record's, by the record: kept by the database as folders are entered and given. Beside them, so that a folder that moves is entered
 * again in no more indexes than its path needs.
 */
export const recordFolder = pgTable(
  "record_folder",
  {
    folderId: whole("folder_id")
      .primaryKey()
      .references(() => folder.id, { onDelete: "cascade" }),
    recordId: whole("record_id")
      .notNull()
      .references(() => record.id),
    /** Its own folder, one each; else one within it, or one it had before. */
    isOwn: boolean("is_own").notNull(),
  },
  (t) => [
    uniqueIndex("record_has_one_folder")
      .on(t.recordId)
      .where(sql`is_own`),
    index("record_folder_record").on(t.recordId, t.folderId),
  ],
);

/** Records' own folders with their paths. */
export const ownFolder = pgView("own_folder", {
  recordId: whole("record_id").notNull(),
  folderId: whole("folder_id").notNull(),
  connection: text("connection").notNull(),
  path: text("path").notNull(),
  pathFolded: text("path_folded").notNull(),
}).existing();

/** Where a document stands in the repository, and the proof. Its whole path is its folder's and its name: see `place`. */
export const placement = pgTable(
  "placement",
  {
    documentId: whole("document_id")
      .primaryKey()
      .references(() => document.id),
    folderId: whole("folder_id")
      .notNull()
      .references(() => folder.id),
    name: text("name").notNull(),
    nameFolded: text("name_folded").notNull(),
    state: text("state").notNull().default("waiting"),
    /** Hash of the file at the path when it was last read back; null until then. */
    sha256: text("sha256"),
    checkedAt: instant("checked_at"),
    why: text("why"),
    /** Who takes it back to Arrivals; set while that is under way. */
    takenBackBy: text("taken_back_by"),
    /** The file as a listing showed it when it was proven: what differs from this was changed by somebody. */
    seenBytes: bigint("seen_bytes", { mode: "number" }),
    seenModifiedMs: bigint("seen_modified_ms", { mode: "number" }),
    seenMark: text("seen_mark"),
  },
  (t) => [
    uniqueIndex("placement_path_is_one_documents").on(t.folderId, t.nameFolded),
    index("placement_state").on(t.state),
    index("placement_checked").on(t.checkedAt),
    index("placement_sha256").on(t.sha256),
    check("placement_state_known", sql`${t.state} in ('waiting','stored','moving','outOfSync','failed')`),
    check("placement_proven", sql`${t.state} <> 'stored' or (${t.sha256} is not null and ${t.checkedAt} is not null)`),
  ],
);

/** Placements with their whole path and connection. */
export const place = pgView("place", {
  documentId: whole("document_id").notNull(),
  folderId: whole("folder_id").notNull(),
  name: text("name").notNull(),
  nameFolded: text("name_folded").notNull(),
  state: text("state").notNull(),
  sha256: text("sha256"),
  checkedAt: instant("checked_at"),
  why: text("why"),
  takenBackBy: text("taken_back_by"),
  connection: text("connection").notNull(),
  folderPath: text("folder_path").notNull(),
  path: text("path").notNull(),
}).existing();

/** Old and new places of everything that a change moves; drawn first, carried out when somebody says so. */
export const movePlan = pgTable(
  "move_plan",
  {
    id: uuid("id").primaryKey(),
    /** rule, record, document, connection, outOfStep. */
    cause: text("cause").notNull(),
    label: text("label").notNull(),
    /** What it is about: types, records or documents, and the rule to be saved when it begins. */
    about: jsonb("about").notNull(),
    /** drawing, drawn, running, stopped, done, undoing, undone, dropped. */
    state: text("state").notNull().default("drawing"),
    why: text("why"),
    /** Steps, those done, those that did not work, those that cannot be done. */
    steps: integer("steps").notNull().default(0),
    done: integer("done").notNull().default(0),
    failed: integer("failed").notNull().default(0),
    clashes: integer("clashes").notNull().default(0),
    documents: integer("documents").notNull().default(0),
    folders: integer("folders").notNull().default(0),
    /** Positions of the steps that were carried out: a row for each would be written again for saying so. */
    moved: wholeRanges("moved")
      .notNull()
      .default(sql`'{}'`),
    /** Records looked at while drawing. */
    looked: integer("looked").notNull().default(0),
    madeAt: instant("made_at").notNull().defaultNow(),
    madeBy: text("made_by").notNull(),
    startedAt: instant("started_at"),
    endedAt: instant("ended_at"),
    undoUntil: instant("undo_until"),
  },
  (t) => [
    index("move_plan_made").on(t.madeAt.desc()),
    check("move_plan_state_known", sql`${t.state} in ('drawing','drawn','running','stopped','done','undoing','undone','dropped')`),
  ],
);

/** One step of a move plan: a folder that is renamed, a file that goes by itself, or a record's folder that becomes another. */
export const moveStep = pgTable(
  "move_step",
  {
    planId: uuid("plan_id")
      .notNull()
      .references(() => movePlan.id, { onDelete: "cascade" }),
    position: integer("position").notNull(),
    /** Steps of one wave do not touch each other. */
    wave: integer("wave").notNull(),
    /** folder: renamed whole. file: goes by itself. own: another folder becomes the record's own. */
    kind: text("kind").notNull(),
    /** Goes to a temporary name first, and from there in a later step. Not shown by itself. */
    isAside: boolean("is_aside").notNull().default(false),
    recordId: whole("record_id"),
    documentId: whole("document_id"),
    folderId: whole("folder_id"),
    fromConnection: text("from_connection").notNull(),
    fromPath: text("from_path").notNull(),
    toConnection: text("to_connection").notNull(),
    toPath: text("to_path").notNull(),
    /** Of a whole folder, both paths folded; null in plans that were drawn before these were kept, until they are carried on. */
    fromFolded: text("from_folded"),
    toFolded: text("to_folded"),
    /** Where it stood before the plan, as people know it. */
    shownFrom: text("shown_from").notNull(),
    /** Documents that go along. */
    documents: integer("documents").notNull().default(0),
    /** How the new name was found: name, field or number. */
    foundBy: text("found_by").notNull().default("name"),
    /** planned, failed, clash. Planned ones that were carried out stand in their plan's `moved`, what is under way in `stepsUnderWay`. */
    state: text("state").notNull().default("planned"),
    why: text("why"),
  },
  (t) => [
    primaryKey({ columns: [t.planId, t.position] }),
    index("move_step_wave").on(t.planId, t.wave, t.position),
    check("move_step_state_known", sql`${t.state} in ('planned','failed','clash')`),
  ],
);

/** Steps of one wave that were taken and are not written down yet: those from first to last that are still as they were before, planned or, on the way back, moved. */
export const stepsUnderWay = pgTable(
  "steps_under_way",
  {
    planId: uuid("plan_id")
      .notNull()
      .references(() => movePlan.id, { onDelete: "cascade" }),
    wave: integer("wave").notNull(),
    /** Positions. */
    first: integer("first").notNull(),
    last: integer("last").notNull(),
    isBack: boolean("is_back").notNull(),
    /** Folders on their way to another path by these steps: nothing is put into them or made below them until they have arrived. */
    folders: whole("folders").array().notNull(),
  },
  (t) => [primaryKey({ columns: [t.planId, t.wave, t.first] })],
);

/** Something that was found in a repository and is not as we know it. */
export const finding = pgTable(
  "finding",
  {
    id: whole("id").primaryKey().generatedAlwaysAsIdentity(),
    connection: text("connection")
      .notNull()
      .references(() => connection.key),
    path: text("path").notNull(),
    pathFolded: text("path_folded").notNull(),
    /** new: a file nobody filed. changed: other bytes than ours. removed: a document's file is gone. folder: a new folder that fits a record. */
    kind: text("kind").notNull(),
    folderId: whole("folder_id").references(() => folder.id),
    recordId: whole("record_id").references(() => record.id),
    documentId: whole("document_id").references(() => document.id),
    seenBytes: bigint("seen_bytes", { mode: "number" }),
    seenModifiedMs: bigint("seen_modified_ms", { mode: "number" }),
    seenMark: text("seen_mark"),
    sha256: text("sha256"),
    /** settling: perhaps still being written. open: somebody has to decide. decided. */
    state: text("state").notNull().default("settling"),
    decision: text("decision"),
    decidedBy: text("decided_by"),
    why: text("why"),
    foundAt: instant("found_at").notNull(),
    changedAt: instant("changed_at").notNull(),
  },
  (t) => [
    uniqueIndex("finding_is_one").on(t.connection, t.pathFolded, t.kind),
    index("finding_state").on(t.state, t.foundAt.desc()),
    index("finding_document").on(t.documentId),
    check("finding_kind_known", sql`${t.kind} in ('new','changed','removed','folder')`),
    check("finding_state_known", sql`${t.state} in ('settling','open','decided')`),
  ],
);

/** A document's further places: a link or a small pointer file in another record's folder or on a shelf. */
export const pointer = pgTable(
  "pointer",
  {
    documentId: whole("document_id")
      .notNull()
      .references(() => document.id),
    folderId: whole("folder_id")
      .notNull()
      .references(() => folder.id),
    name: text("name").notNull(),
    nameFolded: text("name_folded").notNull(),
    /** link or pointer. */
    kind: text("kind").notNull(),
    /** wanted, there, unwanted or failed. */
    state: text("state").notNull().default("wanted"),
    why: text("why"),
  },
  (t) => [
    primaryKey({ columns: [t.documentId, t.folderId] }),
    index("pointer_folder").on(t.folderId),
    index("pointer_state").on(t.state),
    check("pointer_kind_known", sql`${t.kind} in ('link','pointer')`),
    check("pointer_state_known", sql`${t.state} in ('wanted','there','unwanted','failed')`),
  ],
);
