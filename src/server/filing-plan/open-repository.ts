import { eq, sql } from "drizzle-orm";
import { z } from "zod";
import { FIRST_CONNECTION } from "#core/filing-plan/folder-rule.ts";
import { bucketLimits, diskLimits, type NamingLimits, webdavLimits } from "#core/filing-plan/legal-name.ts";
import { db, side, type Tx } from "../db/connect.ts";
import { AppError } from "../ports/app-error.ts";
import { bucketRepository } from "../ports/repositories/bucket.ts";
import { folderRepository } from "../ports/repositories/disk.ts";
import { webdavRepository } from "../ports/repositories/webdav.ts";
import type { Repository, RepositoryKind, RepositoryPowers } from "../ports/repository.ts";
import { config } from "../settings/config.ts";
import { openSecret } from "../settings/secret-box.ts";
import { connection } from "./tables.ts";

const address = z
  .url({ protocol: /^https?$/, error: "must be an address like https://files.example" })
  .max(300)
  .refine((a) => new URL(a).username === "" && new URL(a).password === "", "name and password go into their own fields");
const rootFolder = z
  .string()
  .trim()
  .max(200)
  .refine((r) => !r.split("/").some((s) => s === "." || s === ".."), "may not climb")
  .default("");

/** What is kept of each kind of connection, beside its secret. */
export const connectionSettings = {
  disk: z.object({
    folder: z
      .string()
      .trim()
      .max(400)
      .refine((f) => f.startsWith("/") && !f.split("/").includes(".."), "must be an absolute path like /srv/documents"),
  }),
  webdav: z.object({ address, root: rootFolder, user: z.string().trim().min(1).max(120) }),
  bucket: z.object({
    address,
    region: z.string().trim().min(1).max(60).default("us-east-1"),
    bucket: z
      .string()
      .trim()
      .regex(/^[a-z0-9][a-z0-9.-]{1,61}[a-z0-9]$/, "3 to 63 small letters, digits, dots and dashes"),
    root: rootFolder,
    user: z.string().trim().min(1).max(200),
  }),
} as const satisfies Record<RepositoryKind, z.ZodType>;

/** What an administrator chooses about a connection in use. */
export const connectionOptionsSchema = z.object({
  /** Looks for what other people changed there. */
  isWatched: z.boolean().default(true),
  /** What stands for a document in the folders of further records and on shelves. */
  furtherPlaces: z.enum(["none", "link", "pointer"]).default("none"),
  /** Local copies go so many days after their placement was proven; null keeps them. */
  keepLocalDays: z.number().int().min(0).max(3650).nullable().default(null),
  /** A changed file becomes a new version by itself; else somebody decides. */
  takesChanges: z.boolean().default(true),
});
export type ConnectionOptions = z.infer<typeof connectionOptionsSchema>;

/** A connection as it is kept, without its secret. */
export interface ConnectionInUse {
  readonly key: string;
  readonly label: string;
  readonly kind: RepositoryKind;
  readonly options: ConnectionOptions;
  readonly limits: NamingLimits;
}

const kindLimits: Readonly<Record<RepositoryKind, NamingLimits>> = { disk: diskLimits, webdav: webdavLimits, bucket: bucketLimits };
type Row = typeof connection.$inferSelect;

/** How long an opened repository is used before its row is looked at again, ms. */
const FRESH_MS = 2000;
const opened = new Map<
  string,
  { readonly changedAt: number; readonly repository: Repository; readonly inUse: ConnectionInUse; lookedAt: number }
>();

/** The repository behind a connection. Opened once and remembered; a change of the connection is seen within two seconds. Throws when there is none. */
export async function openRepository(key: string): Promise<Repository> {
  return (await open(key)).repository;
}

/** A connection's naming limits, options and kind. */
export async function connectionInUse(key: string): Promise<ConnectionInUse> {
  return (await open(key)).inUse;
}

/** Naming limits of a connection that is known to be there; those of a disk for one that is not. */
export async function limitsOf(key: string): Promise<NamingLimits> {
  return (await open(key).catch(() => null))?.inUse.limits ?? diskLimits;
}

/** What a connection's kind can do. */
export async function powersOf(key: string): Promise<RepositoryPowers> {
  return (await open(key)).repository.powers;
}

async function open(key: string) {
  const known = opened.get(`${config().databaseUrl} ${key}`);
  if (known && Date.now() - known.lookedAt < FRESH_MS) return known;
  const row = (await side().select().from(connection).where(eq(connection.key, key)))[0];
  if (!row) throw new AppError("unknown-connection", "never", "there is no such connection");
  if (known && known.changedAt === row.changedAt.getTime() && row.preparedAt !== null) {
    known.lookedAt = Date.now();
    return known;
  }
  const repository = repositoryFrom(row);
  // A connection that nobody has used yet marks its place as its own; after that, a place without the mark is not plugged in.
  if (row.preparedAt === null && row.setUp === null) {
    await repository.prepare();
    await side()
      .update(connection)
      .set({ preparedAt: sql`now()` })
      .where(eq(connection.key, key));
  }
  const made = { changedAt: row.changedAt.getTime(), repository, inUse: asInUse(row), lookedAt: Date.now() };
  opened.set(`${config().databaseUrl} ${key}`, made);
  return made;
}

/** A row as the rest of the program knows a connection. */
export function asInUse(row: Row): ConnectionInUse {
  const kind = row.kind as RepositoryKind;
  return { key: row.key, label: row.label, kind, options: connectionOptionsSchema.parse(row.options), limits: kindLimits[kind] };
}

/** Every connection that is in use. */
export async function listConnectionsInUse(tx: Tx = db()): Promise<readonly ConnectionInUse[]> {
  const rows = await tx
    .select()
    .from(connection)
    .where(sql`${connection.setUp} is null`)
    .orderBy(connection.key);
  return rows.map(asInUse);
}

/** Makes the repository of a row; the secret is opened here and nowhere else. `secret` stands in for one that is not kept yet. */
export function repositoryFrom(row: Pick<Row, "key" | "kind" | "settings" | "secret">, secret?: string): Repository {
  const password = secret ?? (row.secret === null ? "" : (openSecret(row.secret, `connection ${row.key}`) ?? ""));
  switch (row.kind as RepositoryKind) {
    case "webdav":
      return webdavRepository({ ...connectionSettings.webdav.parse(row.settings), password });
    case "bucket":
      return bucketRepository({ ...connectionSettings.bucket.parse(row.settings), password });
    case "disk": {
      const settings = connectionSettings.disk.safeParse(row.settings);
      if (!settings.success && row.key !== FIRST_CONNECTION) throw new AppError("unknown-connection", "never", "no folder is said");
      return folderRepository(settings.success ? settings.data.folder : config().repositoryFolder);
    }
  }
}
