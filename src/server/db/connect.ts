import { AsyncLocalStorage } from "node:async_hooks";
import { setTimeout as pause } from "node:timers/promises";
import type { Writable } from "node:stream";
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

const shared = globalThis as typeof globalThis & {
  amberPool?: pg.Pool;
  amberDb?: Db;
  amberSide?: pg.Pool;
  amberLines?: pg.Pool;
  amberLocks?: pg.Pool;
  amberWork?: AsyncLocalStorage<Work>;
};

const TIMEOUT_MS = 10_000;
/** An idle connection that dies must not take the process with it: the next query takes a new one. */
function hardened(made: pg.Pool): pg.Pool {
  made.on("error", () => {});
  made.on("connect", (client) => client.on("error", () => {}));
  return made;
}

/** A piece of work with a line to the database of its own. */
interface Work {
  readonly line: pg.PoolClient;
  /** What it has asked once for all of it. */
  readonly answers: Map<string, Promise<unknown>>;
}
const work = (shared.amberWork ??= new AsyncLocalStorage());

/** The pool of this process. Made at first use; Next loads modules more than once, so it hangs on the global object. */
export function pool(): pg.Pool {
  if (!shared.amberPool) {
    const made = hardened(
      new pg.Pool({ connectionString: config().databaseUrl, max: config().poolSize, connectionTimeoutMillis: TIMEOUT_MS }),
    );
    const byAnyLine = made.query.bind(made) as (...asked: unknown[]) => unknown;
    made.query = ((...asked: unknown[]) => {
      const line = work.getStore()?.line as (pg.PoolClient & { query: (...asked: unknown[]) => unknown }) | undefined;
      if (!line) return byAnyLine(...asked);
      sendTogether(line);
      return line.query(...asked);
    }) as typeof made.query;
    shared.amberPool = made;
  }
  return shared.amberPool;
}

const held = new WeakSet<pg.PoolClient>();
/** Holds back what goes out on a line until all that is asked in this moment has been: one write instead of one for each question. */
function sendTogether(line: pg.PoolClient): void {
  const { connection } = line as { readonly connection?: { readonly stream?: Writable } };
  if (!connection?.stream || held.has(line)) return;
  const { stream } = connection;
  held.add(line);
  stream.cork();
  setImmediate(() => {
    held.delete(line);
    stream.uncork();
  });
}

/** Lines that pieces of work can have to themselves at once; further ones wait. */
const LINES = 6;

/**
 * Does a piece of work that asks much at once, such as a record's page, on a line to the database of its own: what it asks in one moment goes out
 * together and is answered in that order, without ten processes of the database being woken for it (decision 0030). Only for what asks; a transaction
 * within it takes another line. Work within such work shares its line.
 */
export async function onOneLine<T>(act: () => Promise<T>): Promise<T> {
  if (work.getStore()) return act();
  shared.amberLines ??= hardened(
    new pg.Pool({
      connectionString: config().databaseUrl,
      max: Math.min(LINES, config().poolSize),
      pipeline: true,
      // Planned once for good: left to itself the database plans the longest of them again each time, which takes ten times as long as to answer them.
      options: "-c plan_cache_mode=force_generic_plan",
      connectionTimeoutMillis: TIMEOUT_MS,
    }),
  );
  const line = await shared.amberLines.connect();
  try {
    return await work.run({ line, answers: new Map() }, act);
  } finally {
    line.release();
  }
}

const momentary = new Map<string, Promise<unknown>>();
/**
 * Asks something that many parts of one answer need: once for a piece of work on its own line, elsewhere once for those that ask in the very same moment.
 * Not a moment longer, since what it is about may be changed and committed in between.
 */
export function shareInFlight<T>(what: string, ask: () => Promise<T>): Promise<T> {
  const answers = work.getStore()?.answers ?? momentary;
  const known = answers.get(what) as Promise<T> | undefined;
  if (known) return known;
  const answer = ask();
  answers.set(what, answer);
  if (answers === momentary) process.nextTick(() => momentary.clear());
  return answer;
}

/** The database. Statement texts and parameters are never logged. */
export function db(): Db {
  shared.amberDb ??= drizzle(pool());
  return shared.amberDb;
}

/**
 * Some lines to the database for work that reads much side by side while it holds a transaction open. They are taken before that begins: one who holds
 * what others wait for must not wait for a line that those have.
 * @param statementMs Longest time of one statement on them.
 */
export async function withLines<T>(count: number, statementMs: number, act: (lines: readonly Db[]) => Promise<T>): Promise<T> {
  const clients: pg.PoolClient[] = [];
  let isWhole = false;
  try {
    for (let i = 0; i < count; i++) {
      const client = await pool().connect();
      clients.push(client);
      await client.query(`set statement_timeout = ${Math.round(statementMs)}`);
    }
    const answer = await act(clients.map((c) => drizzle(c)));
    for (const client of clients) await client.query("reset statement_timeout");
    isWhole = true;
    return answer;
  } finally {
    // What may still be asking something is not handed on to others.
    for (const client of clients) client.release(!isWhole);
  }
}

/**
 * A second, small pool for short look-ups that are made while a transaction is open, such as how a connection is reached. Taken from the first pool,
 * transactions that all wait for one more connection would wait for each other.
 */
export function side(): Db {
  if (!shared.amberSide) {
    shared.amberSide = hardened(
      new pg.Pool({ connectionString: config().databaseUrl, max: 2, connectionTimeoutMillis: TIMEOUT_MS, idleTimeoutMillis: 5000 }),
    );
  }
  return drizzle(shared.amberSide);
}

/** Locks that one process holds at a time; further ones wait. */
const LOCKS = 4;
/** A lock that another holds is tried again after this, ms. */
const TRY_MS = 20;

/**
 * Does something that only one process at a time may do to the same thing; it is let go of with the process, however that ends. The lock has a line of its
 * own from a small pool, so that who waits for a lock holds nothing that who has it needs.
 * @param lock Which kind of work; see the uses of `alone`.
 * @returns What `act` answers, or null when the lock could not be had until then.
 */
export async function alone<T>(lock: number, what: string, until: number, act: () => Promise<T>): Promise<{ readonly answer: T } | null> {
  shared.amberLocks ??= hardened(
    new pg.Pool({
      connectionString: config().databaseUrl,
      max: LOCKS,
      idleTimeoutMillis: 5000,
      connectionTimeoutMillis: TIMEOUT_MS,
      // A machine that is gone without a word holds its locks for half a minute, not for the two hours after which a line is given up otherwise.
      options: "-c tcp_keepalives_idle=15 -c tcp_keepalives_interval=5 -c tcp_keepalives_count=3",
    }),
  );
  const line = await shared.amberLocks.connect();
  let isLetGo = false;
  try {
    for (;;) {
      const tried = await line.query<{ mine: boolean }>("select pg_try_advisory_lock($1, hashtext($2)) as mine", [lock, what]);
      if (tried.rows[0]?.mine === true) break;
      if (Date.now() > until) {
        isLetGo = true;
        return null;
      }
      await pause(TRY_MS);
    }
    try {
      return { answer: await act() };
    } finally {
      await line.query("select pg_advisory_unlock($1, hashtext($2))", [lock, what]);
      isLetGo = true;
    }
  } finally {
    // A line that may still hold it ends.
    line.release(!isLetGo);
  }
}

/** Closes the pool; for tests and tools that end. */
export async function closeDb(): Promise<void> {
  const open = [shared.amberSide, shared.amberLines, shared.amberLocks, shared.amberPool];
  shared.amberSide = undefined;
  shared.amberLines = undefined;
  shared.amberLocks = undefined;
  shared.amberPool = undefined;
  shared.amberDb = undefined;
  for (const one of open) await one?.end();
}
