import { eq, sql } from "drizzle-orm";
import { z } from "zod";
import {
  defaultLimits,
  type IntakeLimits,
  limitsSchema,
  narrowLimits,
  type QueueLimits,
  queueLimitsSchema,
} from "#core/arrivals/limits.ts";
import { type LabelFormat, labelFormatsSchema, wrongWithPattern } from "#core/codes/label-format.ts";
import { allowsAnywhere } from "#core/access/grants.ts";
import { startingTolerance, type Tolerance, toleranceSchema } from "#core/comparing/tolerance.ts";
import { type ReachSettings, reachSettingsSchema, startingReach } from "#core/reach/reach.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { queue } from "../arrivals/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentTypes, loadRecordTypes } from "../records/load-types.ts";
import { setting } from "./tables.ts";

/** The intake limits in force. */
export async function loadLimits(tx: Tx = db()): Promise<IntakeLimits> {
  const rows = await tx.select().from(setting).where(eq(setting.key, "intakeLimits"));
  const parsed = limitsSchema.safeParse(rows[0]?.value);
  return parsed.success ? parsed.data : defaultLimits;
}

/** The intake limits of each queue, narrowed by its own. */
export async function loadQueueLimits(tx: Tx = db()): Promise<ReadonlyMap<string, IntakeLimits>> {
  const [general, rows] = [await loadLimits(tx), await tx.select({ key: queue.key, limits: queue.limits }).from(queue)];
  return new Map(rows.map((q) => [q.key, narrowLimits(general, parseQueueLimits(q.limits))]));
}

/** A queue's own limits as they are kept; what is none is nothing of its own. */
export function parseQueueLimits(value: unknown): QueueLimits | null {
  const parsed = queueLimitsSchema.safeParse(value);
  return parsed.success ? parsed.data : null;
}

/** Sets the intake limits; only with the right to manage. They hold from the next file on. */
export async function saveLimits(actor: Actor, limits: IntakeLimits): Promise<Result<IntakeLimits>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  await saveSetting("intakeLimits", limits, actor.id);
  return ok(limits);
}

/** What an administrator sets about the repository as a whole. */
export const repositorySettingsSchema = z.object({
  /** Placements that are read back and proven again each minute, those proven longest ago first. */
  provesPerMinute: z.number().int().min(0).max(10_000).default(60),
});
export type RepositorySettings = z.infer<typeof repositorySettingsSchema>;

/** The repository settings in force. */
export async function loadRepositorySettings(): Promise<RepositorySettings> {
  const rows = await db().select().from(setting).where(eq(setting.key, "repository"));
  return repositorySettingsSchema.parse(rows[0]?.value ?? {});
}

/** Sets them; only with the right to manage. */
export async function saveRepositorySettings(actor: Actor, value: RepositorySettings): Promise<Result<RepositorySettings>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  await saveSetting("repository", value, actor.id);
  return ok(value);
}

/** How far documents may be from their records before they are said to differ. */
export async function loadTolerance(): Promise<Tolerance> {
  const rows = await db().select().from(setting).where(eq(setting.key, "tolerance"));
  const parsed = toleranceSchema.safeParse(rows[0]?.value ?? {});
  return parsed.success ? parsed.data : startingTolerance;
}

/** Which record types see the clips of each document type, and from how many records on it is asked. */
export async function loadReachSettings(tx: Tx = db()): Promise<ReachSettings> {
  const rows = await tx.select().from(setting).where(eq(setting.key, "reach"));
  const parsed = reachSettingsSchema.safeParse(rows[0]?.value ?? {});
  return parsed.success ? parsed.data : startingReach;
}

/** Sets it; only with the right to manage. Refuses unknown-type. It holds for clips that are made from then on. */
export async function saveReachSettings(actor: Actor, value: ReachSettings): Promise<Result<ReachSettings>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const [documentTypes, recordTypes] = [await loadDocumentTypes(), await loadRecordTypes()];
  const unknown =
    Object.keys(value.types).find((key) => !documentTypes.some((t) => t.key === key)) ??
    Object.values(value.types)
      .flat()
      .find((key) => !recordTypes.some((t) => t.key === key));
  if (unknown !== undefined) return refuse("unknown-type", unknown);
  await saveSetting("reach", value, actor.id);
  return ok(value);
}

/** Sets it; only with the right to manage. */
export async function saveTolerance(actor: Actor, value: Tolerance): Promise<Result<Tolerance>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  await saveSetting("tolerance", value, actor.id);
  return ok(value);
}

const savedFiltersSchema = z
  .array(
    z.object({
      label: z.string().trim().min(1).max(60),
      type: z.string().max(40),
      /** As in the address of the list. */
      query: z.record(z.string().max(20), z.string().max(200)),
    }),
  )
  .max(30);

const paperColumnsSchema = z.array(z.string().max(40)).max(20);

const arrivalSortSchema = z.enum(["newest", "oldest", "name", "largest", "pages"]);

/** How one person wants the program to be. */
export const preferencesSchema = z.object({
  /** Ask before one document or record is moved. */
  asksBeforeMove: z.boolean().default(true),
  /** Filters on records that were kept under a name; days in them are counted from the day they are used. */
  savedFilters: savedFiltersSchema.default([]),
  /** Columns of a record's documents, by key; none: the short list. */
  paperColumns: paperColumnsSchema.default([]),
  /** Order of what waits in Arrivals. */
  arrivalSort: arrivalSortSchema.default("newest"),
});
export type Preferences = z.infer<typeof preferencesSchema>;
/** What is to be different; what is left out stays as it is. */
export const preferencesChangeSchema = z.object({
  asksBeforeMove: z.boolean().optional(),
  savedFilters: savedFiltersSchema.optional(),
  paperColumns: paperColumnsSchema.optional(),
  arrivalSort: arrivalSortSchema.optional(),
});

export type PreferencesChange = z.infer<typeof preferencesChangeSchema>;

/** A person's preferences. */
export async function loadPreferences(personId: string): Promise<Preferences> {
  const rows = await db()
    .select()
    .from(setting)
    .where(eq(setting.key, `person ${personId}`));
  return preferencesSchema.parse(rows[0]?.value ?? {});
}

/** Changes one's own preferences; those left out stay, also when two changes are saved at once. */
export async function savePreferences(actor: Actor, change: PreferencesChange): Promise<Result<Preferences>> {
  const row = { key: `person ${actor.id}`, value: change, changedAt: now(), changedBy: actor.id };
  const saved = await db()
    .insert(setting)
    .values(row)
    .onConflictDoUpdate({ target: setting.key, set: { ...row, value: sql`${setting.value} || excluded.value` } })
    .returning({ value: setting.value });
  return ok(preferencesSchema.parse(saved[0]?.value ?? {}));
}

async function saveSetting(key: string, value: unknown, by: string): Promise<void> {
  await db()
    .insert(setting)
    .values({ key, value, changedAt: now(), changedBy: by })
    .onConflictDoUpdate({ target: setting.key, set: { value, changedAt: now(), changedBy: by } });
}

/** The barcodes of the business system that are known. */
export async function loadLabelFormats(): Promise<readonly LabelFormat[]> {
  const rows = await db().select().from(setting).where(eq(setting.key, "labelFormats"));
  const parsed = labelFormatsSchema.safeParse(rows[0]?.value);
  return parsed.success ? parsed.data : [];
}

/** Sets them; only with the right to manage. Refuses bad-input with the patterns that are none. They hold for documents looked at from then on. */
export async function saveLabelFormats(actor: Actor, formats: readonly LabelFormat[]): Promise<Result<readonly LabelFormat[]>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const errors = formats.flatMap((f, i) => {
    const wrong = wrongWithPattern(f.pattern);
    return wrong === null ? [] : [{ path: `formats.${i}.pattern`, message: wrong }];
  });
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  await saveSetting("labelFormats", formats, actor.id);
  return ok(formats);
}
