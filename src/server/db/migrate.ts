import { fileURLToPath } from "node:url";
import { drizzle } from "drizzle-orm/node-postgres";
import { migrate } from "drizzle-orm/node-postgres/migrator";
import { runMigrations } from "graphile-worker";
import pg from "pg";

/** Any number; the same in every process that migrates. */
const MIGRATION_LOCK = 730_001;

/** Brings a database up to date: our tables and the job queue's. Runs once at a time, whoever starts it. Throws with PostgreSQL's own error. */
export async function migrateDatabase(databaseUrl: string): Promise<void> {
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    await client.query("select pg_advisory_lock($1)", [MIGRATION_LOCK]);
    await migrate(drizzle(client), { migrationsFolder: fileURLToPath(new URL("./migrations", import.meta.url)) });
    await runMigrations({ connectionString: databaseUrl });
  } catch (error) {
    // Drizzle wraps PostgreSQL's error in one that prints the whole statement; the cause is what tells.
    throw error instanceof Error && error.cause instanceof Error ? error.cause : error;
  } finally {
    await client.end();
  }
}
