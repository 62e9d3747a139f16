import { randomUUID } from "node:crypto";
import { mkdir } from "node:fs/promises";
import path from "node:path";
import { Readable } from "node:stream";
import pg from "pg";
import { eq } from "drizzle-orm";
import { type ArrivalId, parseSha256 } from "#core/shared/brand.ts";
import { finishAnalysed } from "../arrivals/finish-reading.ts";
import { readArrival } from "../arrivals/read-arrival.ts";
import { landFile, takeIn } from "../arrivals/receive.ts";
import { arrival } from "../arrivals/tables.ts";
import { fileAway, type Filing } from "../documents/file-away.ts";
import { placeDocument } from "../filing-plan/place-document.ts";
import type { Actor } from "../people/load-actor.ts";
import { recordInputSchema, upsertRecord } from "../records/upsert-record.ts";
import { indexDocument } from "../search/index-document.ts";
import { analysePages } from "../reading/analyse-pages.ts";
import { letGoOfKept } from "../settings/kept.ts";
import { closeDb, db } from "./connect.ts";
import { migrateDatabase } from "./migrate.ts";

/** A database of its own in the cluster of the tests: empty, or a copy of another one. */
export async function makeEmptyDatabase(template = "template0"): Promise<{ readonly name: string; readonly url: string }> {
  const admin = process.env["AMBER_TEST_DATABASE"];
  if (!admin) throw new Error("database tests are run by bin/test db");
  const name = `test_${randomUUID().replaceAll("-", "")}`;
  const client = new pg.Client({ connectionString: admin });
  await client.connect();
  await client.query(`create database ${name} template ${template}`);
  await client.end();
  const url = new URL(admin);
  url.pathname = `/${name}`;
  return { name, url: url.href };
}

/** A database and data folder of their own for one file of database tests. Call `end` afterwards. */
export function makeTestDatabase(): Promise<TestDatabase> {
  // Migrated once for all of them; what comes after that is only looked at.
  return makeFrom(process.env["AMBER_TEST_TEMPLATE"]);
}

/** The same with companies, types, queues, people, keys and filing plan of the demo, which are entered once for all of them. */
export function makeSetUpDatabase(): Promise<TestDatabase> {
  return makeFrom(process.env["AMBER_TEST_SET_UP"]);
}

export interface TestDatabase {
  readonly dataFolder: string;
  end(): Promise<void>;
}

async function makeFrom(template: string | undefined): Promise<TestDatabase> {
  const { name, url } = await makeEmptyDatabase(template);
  const dataFolder = path.join(process.env["AMBER_TEST_DATA"] ?? "/tmp", name);
  await mkdir(dataFolder, { recursive: true });
  Object.assign(process.env, {
    AMBER_DATABASE_URL: url,
    AMBER_DATA: dataFolder,
    AMBER_URL: "http://127.0.0.1:9",
    AMBER_SECRET: "only for tests, only for tests, only",
  });
  // One process does many files of tests, each on a database of its own.
  await closeDb();
  letGoOfKept();
  await migrateDatabase(url);
  return { dataFolder, end: closeDb };
}

/** Unwraps a result that must be ok. */
export function must<T>(result: { ok: true; value: T } | { ok: false; refusal: { code: string; detail?: string; errors?: unknown } }): T {
  if (!result.ok) throw new Error(`refused: ${JSON.stringify(result.refusal)}`);
  return result.value;
}

/** Makes or changes a record. */
export async function putRecord(actor: Actor, company: string, type: string, key: string, input: Record<string, unknown>): Promise<number> {
  return must(await upsertRecord(actor, company, type, key, recordInputSchema.parse({ title: key, ...input }))).id;
}

/** Takes a text or bytes in and reads it as the worker would. */
export async function takeText(
  actor: Actor,
  fileName: string,
  body: string | Uint8Array,
  about: { queue?: string; company?: string; key?: string; record?: string } = {},
): Promise<ArrivalId> {
  const landed = must(await landFile(Readable.from([Buffer.from(body)])));
  const taken = must(
    await takeIn(actor, landed, {
      fileName,
      queue: about.queue ?? "general",
      source: "drop",
      company: about.company ?? "MF",
      idempotencyKey: about.key,
      record: about.record,
    }),
  );
  await readArrival(taken.id);
  return taken.id;
}

/** Takes bytes in, reads them and looks at their pages, as the worker would; answers when the arrival is ready. */
export async function takeAndLook(...asked: Parameters<typeof takeText>): Promise<ArrivalId> {
  const id = await takeText(...asked);
  await lookAt(id);
  return id;
}

/** Looks at the pages of an arrival that waits for that. */
export async function lookAt(id: ArrivalId): Promise<void> {
  const row = (await db().select({ sha256: arrival.sha256 }).from(arrival).where(eq(arrival.id, id)))[0];
  if (!row) throw new Error("no such arrival");
  while ((await analysePages(parseSha256(row.sha256))) > 0);
  await finishAnalysed(parseSha256(row.sha256));
}

/** Takes in, files, places and indexes; answers the code and path. */
export async function fileText(
  actor: Actor,
  fileName: string,
  body: string,
  filing: Filing,
  company = "MF",
): Promise<{ code: string; path: string; id: number }> {
  const arrival = await takeText(actor, fileName, body, { company });
  const filed = must(await fileAway(actor, arrival, filing));
  const id = Number(filed.code.slice(3));
  await placeDocument(id);
  await indexDocument(id);
  return { code: filed.code, path: filed.path, id };
}
