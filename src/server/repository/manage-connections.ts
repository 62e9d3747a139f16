import { eq, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { FIRST_CONNECTION } from "#core/filing-plan/folder-rule.ts";
import { keySchema } from "#core/shared/key.ts";
import type { FieldError } from "#core/shared/result.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import {
  connectionOptionsSchema,
  type ConnectionOptions,
  connectionSettings,
  openRepository,
  repositoryFrom,
} from "../filing-plan/open-repository.ts";
import { connection } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { type ProbeStep, type RepositoryPowers, repositoryKinds } from "../ports/repository.ts";
import { config } from "../settings/config.ts";
import { lockSecret } from "../settings/secret-box.ts";
import { writeLines } from "../timeline/write-lines.ts";
import type { Scanned } from "./scan.ts";

/** What an administrator says of a connection. The secret is taken and never given out. */
export const connectionInputSchema = z.object({
  label: z.string().trim().min(1).max(60),
  kind: z.enum(repositoryKinds),
  settings: z.record(z.string(), z.unknown()).default({}),
  /** Left out, the one that is kept stays. */
  secret: z.string().max(400).optional(),
  options: connectionOptionsSchema.partial().optional(),
});
export type ConnectionInput = z.infer<typeof connectionInputSchema>;

/** Where a set-up that was left is taken up again. */
export const setUpSchema = z.object({
  step: z.enum(["kind", "address", "check", "types", "layout", "preview", "run", "result"]),
  recordTypes: z.array(z.string()).default([]),
  layout: z.enum(["flat", "nested"]).default("nested"),
  job: z.uuid().nullable().default(null),
  checks: z.array(z.record(z.string(), z.unknown())).default([]),
});
export type SetUp = z.infer<typeof setUpSchema>;

/** A connection as Set-up shows it. */
export interface ConnectionAnswer {
  readonly key: string;
  readonly label: string;
  readonly kind: string;
  readonly settings: Readonly<Record<string, unknown>>;
  /** Whether a password is kept; it is never given out. */
  readonly hasSecret: boolean;
  readonly options: ConnectionOptions;
  readonly setUp: SetUp | null;
  readonly recordTypes: readonly string[];
  readonly folders: number;
  readonly documents: number;
  readonly scannedAt: string | null;
  readonly scanned: Scanned | null;
  readonly powers: RepositoryPowers | null;
  readonly location: string | null;
}

/** Every connection, those whose set-up is not finished too. */
export async function listConnections(actor: Actor): Promise<Result<{ items: readonly ConnectionAnswer[] }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const rows = await db().select().from(connection).orderBy(connection.key);
  const [counts, types] = await Promise.all([
    db().execute<{
      connection: string;
      folders: number;
      documents: number;
    }>(sql`select f.connection, count(distinct f.id)::int as folders, count(p.document_id)::int as documents
      from folder f left join placement p on p.folder_id = f.id group by f.connection`),
    db().execute<{
      connection: string;
      record_type: string;
    }>(sql`select coalesce(rule->>'connection', ${FIRST_CONNECTION}) as connection, record_type from folder_rule
      where (record_type, version) in (select record_type, max(version) from folder_rule group by record_type)`),
  ]);
  const items = await Promise.all(
    rows.map(async (row) => {
      const repository = row.setUp === null ? await openRepository(row.key).catch(() => null) : null;
      const count = counts.rows.find((c) => c.connection === row.key);
      return {
        key: row.key,
        label: row.label,
        kind: row.kind,
        settings:
          row.key === FIRST_CONNECTION && Object.keys(row.settings as object).length === 0
            ? { folder: config().repositoryFolder }
            : (row.settings as Record<string, unknown>),
        hasSecret: row.secret !== null,
        options: connectionOptionsSchema.parse(row.options),
        setUp: row.setUp === null ? null : setUpSchema.parse(row.setUp),
        recordTypes: types.rows.filter((t) => t.connection === row.key).map((t) => t.record_type),
        folders: count?.folders ?? 0,
        documents: count?.documents ?? 0,
        scannedAt: row.scannedAt?.toISOString() ?? null,
        scanned: row.scanned as Scanned | null,
        powers: repository?.powers ?? null,
        location: repository?.locationOf("") ?? null,
      };
    }),
  );
  return ok({ items });
}

/** Makes a connection whose set-up begins, or changes one. Refuses not-allowed, bad-input, no-secret, still-there (another kind while documents stand there). */
export async function putConnection(actor: Actor, key: string, input: ConnectionInput): Promise<Result<{ key: string }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  if (!keySchema.safeParse(key).success)
    return refuse("bad-input", undefined, [{ path: "key", message: "starts with a small letter; letters and digits only" }]);
  const known = (await db().select().from(connection).where(eq(connection.key, key)))[0];
  const errors: FieldError[] = [];
  const isPlainFirst = key === FIRST_CONNECTION && input.kind === "disk" && Object.keys(input.settings).length === 0;
  const parsed = connectionSettings[input.kind].safeParse(input.settings);
  if (!parsed.success && !isPlainFirst)
    errors.push(...parsed.error.issues.map((i) => ({ path: `settings.${i.path.join(".")}`, message: i.message })));
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  if (known && known.kind !== input.kind && known.setUp === null)
    return refuse("still-there", "a connection in use cannot change its kind");
  if (input.kind !== "disk" && !input.secret && !known?.secret) return refuse("no-secret");
  const options = { ...connectionOptionsSchema.parse(known?.options ?? {}), ...input.options };
  const settings: unknown = parsed.success ? parsed.data : {};
  const secret = input.secret ? lockSecret(input.secret, `connection ${key}`) : (known?.secret ?? null);
  const moved = known !== undefined && JSON.stringify(known.settings) !== JSON.stringify(settings);
  await db().transaction(async (tx) => {
    await tx
      .insert(connection)
      .values({ key, label: input.label, kind: input.kind, settings, secret, options, setUp: { step: "check" }, changedAt: now() })
      .onConflictDoUpdate({
        target: connection.key,
        // Another address is another place: it is marked as ours only after its check.
        set: {
          label: input.label,
          kind: input.kind,
          settings,
          secret,
          options,
          changedAt: now(),
          ...(moved && known?.setUp !== null ? { preparedAt: null } : {}),
        },
      });
    if (known && connectionOptionsSchema.parse(known.options).furtherPlaces !== options.furtherPlaces)
      await addJob(tx, "rewritePointers", { connection: key }, { key: `pointAnew:${key}` });
    await writeLines(tx, [{ verb: "connectionChanged", who: actor.id, details: { label: input.label } }]);
  });
  return ok({ key });
}

/** Tries a connection with everything the program will do; each line with its outcome. Marks a new one as ours. */
export async function checkConnection(actor: Actor, key: string): Promise<Result<{ steps: readonly ProbeStep[]; passed: boolean }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const row = (await db().select().from(connection).where(eq(connection.key, key)))[0];
  if (!row) return refuse("not-found");
  const steps = await repositoryFrom(row).probe(row.preparedAt === null);
  const passed = steps.every((s) => s.outcome !== "failed" && s.outcome !== "skipped");
  if (passed && row.preparedAt === null) await db().update(connection).set({ preparedAt: now() }).where(eq(connection.key, key));
  if (row.setUp !== null)
    await db()
      .update(connection)
      .set({ setUp: { ...setUpSchema.parse(row.setUp), checks: steps } })
      .where(eq(connection.key, key));
  return ok({ steps, passed });
}

/** Keeps where a set-up stands, so that it can be left and taken up again; null when it is finished. */
export async function keepSetUp(actor: Actor, key: string, setUp: SetUp | null): Promise<Result<{ key: string }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const done = await db().update(connection).set({ setUp, changedAt: now() }).where(eq(connection.key, key)).returning();
  if (!done[0]) return refuse("not-found");
  if (setUp === null && done[0].preparedAt === null) {
    await db()
      .update(connection)
      .set({ setUp: { step: "check" } })
      .where(eq(connection.key, key));
    return refuse("not-proven", "the check has not passed yet");
  }
  return ok({ key });
}

/** Forgets a connection that nothing stands on. */
export async function dropConnection(actor: Actor, key: string): Promise<Result<{ key: string }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const used = await db().execute<{ used: boolean }>(sql`select exists (select 1 from folder where connection = ${key})
    or exists (select 1 from folder_rule where rule->>'connection' = ${key} and (record_type, version) in (select record_type, max(version) from folder_rule group by record_type)) as used`);
  if (used.rows[0]?.used || key === FIRST_CONNECTION) return refuse("still-there", "folders or rules use it");
  await db().execute(sql`delete from finding where connection = ${key}`);
  const gone = await db().delete(connection).where(eq(connection.key, key)).returning({ key: connection.key });
  return gone[0] ? ok({ key }) : refuse("not-found");
}
