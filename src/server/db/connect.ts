import { drizzle, type NodePgDatabase } from "drizzle-orm/node-postgres";
import pg from "pg";
import { config } from "../settings/config.ts";

// This string must never reach a browser; a test looks for it in the client bundle.
export const CANARY = "amber-canary-7f3a";

// Whole numbers and dates come as they are written: int8 as number (ids stay below 2^53), date as YYYY-MM-DD.
pg.types.setTypeParser(pg.types.builtins.INT8, (text) => Number(text));
pg.types.setTypeParser(pg.types.builtins.DATE, (text) => text);

export type Db = NodePgDatabase;
/** What queries run on: the pool, or a transaction on it. */
export type Tx = Pick<Db, "select" | "selectDistinct" | "insert" | "update" | "delete" | "execute" | "with">;

const shared = globalThis as typeof globalThis & { amberPool?: pg.Pool; amberDb?: Db; amberSide?: pg.Pool };

/** The pool of this process. Made at first use; Next loads modules more than once, so it hangs on the global object. */
export function pool(): pg.Pool {
  if (!shared.amberPool) {
    shared.amberPool = new pg.Pool({ connectionString: config().databaseUrl, max: config().poolSize, connectionTimeoutMillis: 10_000 });
    // An idle connection that dies must not take the process with it: the next query takes a new one.
    shared.amberPool.on("error", () => {});
    shared.amberPool.on("connect", (client) => client.on("error", () => {}));
  }
  return shared.amberPool;
}

/** The database. Statement texts and parameters are never logged. */
export function db(): Db {
  shared.amberDb ??= drizzle(pool());
  return shared.amberDb;
}

/**
 * A second, small pool for short look-ups that are made while a transaction is open, such as how a connection is reached. Taken from the first pool,
 * transactions that all wait for one more connection would wait for each other.
 */
export function side(): Db {
  if (!shared.amberSide) {
    shared.amberSide = new pg.Pool({
      connectionString: config().databaseUrl,
      max: 2,
      connectionTimeoutMillis: 10_000,
      idleTimeoutMillis: 5000,
    });
    shared.amberSide.on("error", () => {});
    shared.amberSide.on("connect", (client) => client.on("error", () => {}));
  }
  return drizzle(shared.amberSide);
}

/** Closes the pool; for tests and tools that end. */
export async function closeDb(): Promise<void> {
  const open = shared.amberPool;
  const beside = shared.amberSide;
  shared.amberSide = undefined;
  await beside?.end();
  shared.amberPool = undefined;
  shared.amberDb = undefined;
  await open?.end();
}
