import { sql } from "drizzle-orm";
import { index, integer, jsonb, pgTable, primaryKey, text, uuid } from "drizzle-orm/pg-core";
import { instant } from "../db/column-types.ts";

/** Progress of anything long, for people to see. */
export const jobRun = pgTable(
  "job_run",
  {
    id: uuid("id").primaryKey(),
    kind: text("kind").notNull(),
    label: text("label").notNull(),
    personId: text("person_id").notNull(),
    state: text("state").notNull().default("waiting"),
    done: integer("done").notNull().default(0),
    total: integer("total"),
    failed: integer("failed").notNull().default(0),
    failures: jsonb("failures")
      .notNull()
      .default(sql`'[]'::jsonb`),
    input: jsonb("input")
      .notNull()
      .default(sql`'{}'::jsonb`),
    madeAt: instant("made_at").notNull().defaultNow(),
    endedAt: instant("ended_at"),
  },
  (t) => [index("job_run_person").on(t.personId, t.madeAt.desc())],
);

/** Answers to requests that carried an idempotency key, so that twice is once. */
export const idempotency = pgTable(
  "idempotency",
  {
    personId: text("person_id").notNull(),
    key: text("key").notNull(),
    /** Hash of method, path and what could be hashed of the body. */
    fingerprint: text("fingerprint").notNull(),
    status: integer("status"),
    answer: jsonb("answer"),
    madeAt: instant("made_at").notNull().defaultNow(),
  },
  (t) => [primaryKey({ columns: [t.personId, t.key] })],
);

/** A sign of life of each running process, so that health can tell. */
export const heartbeat = pgTable("heartbeat", {
  process: text("process").primaryKey(),
  at: instant("at").notNull(),
});
