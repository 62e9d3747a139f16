import { jsonb, pgTable, text } from "drizzle-orm/pg-core";
import { instant } from "../db/column-types.ts";

/** Settings an administrator changes while it runs, such as the intake limits. */
export const setting = pgTable("setting", {
  key: text("key").primaryKey(),
  value: jsonb("value").notNull(),
  changedAt: instant("changed_at").notNull().defaultNow(),
  changedBy: text("changed_by"),
});
