import { readdir, readFile } from "node:fs/promises";
import path from "node:path";
import { runMigrations } from "graphile-worker";
import pg from "pg";
import { z } from "zod";
import { migrateDatabase } from "./migrate.ts";
import { makeEmptyDatabase } from "./test-world.ts";

const folder = path.resolve("src/server/db/migrations");
const journalSchema = z.object({ entries: z.array(z.object({ idx: z.number(), when: z.number(), tag: z.string() })) });
const journal = async () => journalSchema.parse(JSON.parse(await readFile(path.join(folder, "meta/_journal.json"), "utf8"))).entries;

const emptyDatabase = async (): Promise<string> => (await makeEmptyDatabase()).url;
async function ask<T extends pg.QueryResultRow>(url: string, text: string): Promise<readonly T[]> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return (await client.query<T>(text)).rows;
  } finally {
    await client.end();
  }
}

/** A database to which only the first so many migrations were applied, by hand; drizzle's own table says that they were run. */
async function databaseOf(migrations: number): Promise<{ readonly url: string; readonly client: pg.Client }> {
  const url = await emptyDatabase();
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  await client.query(
    "create schema drizzle; create table drizzle.__drizzle_migrations (id serial primary key, hash text not null, created_at bigint)",
  );
  for (const e of (await journal()).slice(0, migrations)) {
    await client.query(await readFile(path.join(folder, `${e.tag}.sql`), "utf8"));
    await client.query("insert into drizzle.__drizzle_migrations (hash, created_at) values ($1, $2)", [e.tag, e.when]);
  }
  return { url, client };
}

describe("Migrations", () => {
  test("are numbered without gaps, each with its file, and their times rise: one that is older than the last is passed over in silence", async () => {
    const entries = await journal();
    expect(entries.length).toBeGreaterThan(2);
    expect(entries.map((e) => e.idx)).toEqual(entries.map((_, i) => i));
    for (const [i, e] of entries.entries()) {
      expect(e.tag.startsWith(String(i).padStart(4, "0"))).toBe(true);
      if (i > 0) expect(e.when).toBeGreaterThan(entries[i - 1]?.when ?? 0);
    }
    const files = (await readdir(folder)).filter((f) => f.endsWith(".sql")).sort();
    expect(files).toEqual(entries.map((e) => `${e.tag}.sql`));
  });
  test("started by many processes at once run once, and again change nothing", async () => {
    const url = await emptyDatabase();
    await Promise.all(Array.from({ length: 4 }, () => migrateDatabase(url)));
    const done = await ask<{ n: string }>(url, "select count(*) as n from drizzle.__drizzle_migrations");
    expect(Number(done[0]?.n)).toBe((await journal()).length);
    await migrateDatabase(url);
    expect(await ask(url, "select count(*) as n from drizzle.__drizzle_migrations")).toEqual(done);
  });
  test("bring a database of the first version, with records and documents in it, up to date and lose nothing", async () => {
    const { url, client } = await databaseOf(2);
    await client.query(`insert into company values ('MF', 'Merrowick Ferries Ltd'); insert into record_type values ('vessel', '{}', 1);
      insert into record (company, type, key, title, key_folded, title_folded, lookup_text) values ('MF', 'vessel', 'V-1', 'MV Old', 'v1', 'mv old', 'v-1 mv old');
      insert into queue (key, label, "order") values ('general', 'General', 1);
      insert into content (sha256, size_bytes) values (repeat('a', 64), 5);
      insert into arrival (id, queue, source, file_name, sha256, size_bytes, received_at) values ('0a1b2c3d-0000-4000-8000-000000000000', 'general', 'drop', 'old.pdf', repeat('a', 64), 5, now())`);
    await client.end();
    await migrateDatabase(url);
    expect(await ask(url, "select key, title from record")).toEqual([{ key: "V-1", title: "MV Old" }]);
    expect(await ask(url, "select file_name, state from arrival")).toEqual([{ file_name: "old.pdf", state: "waiting" }]);
    await expect(ask(url, "delete from arrival")).rejects.toThrow("register lines are kept for good");
  });
  test("keep what was carried out of a move plan, as ranges", async () => {
    const { url, client } = await databaseOf(33);
    await client.query(`insert into move_plan (id, cause, label, about, state, made_by) values ('0a1b2c3d-0000-4000-8000-000000000000', 'rule', 'Vessels', '{}', 'stopped', 'x');
      insert into move_step (plan_id, position, wave, kind, from_connection, from_path, to_connection, to_path, shown_from, state)
        select '0a1b2c3d-0000-4000-8000-000000000000', n, 0, 'folder', 'c', 'a', 'c', 'b', 'a', case when n = 3 then 'clash' when n < 6 then 'moved' else 'planned' end
          from generate_series(1, 8) n`);
    await client.end();
    await migrateDatabase(url);
    expect(await ask(url, "select moved::text from move_plan")).toEqual([{ moved: "{[1,3),[4,6)}" }]);
    expect(await ask(url, "select state, count(*)::int as n from move_step group by state order by state")).toEqual([
      { state: "clash", n: 1 },
      { state: "planned", n: 7 },
    ]);
  });
  test("give record types, locations and queued jobs the words of today, and lose none of them", async () => {
    const { url, client } = await databaseOf(41);
    // The job queue is as old as the rest: it was made before, and jobs wait in it.
    await runMigrations({ connectionString: url });
    const states = ["waiting", "placed", "moving", "adrift", "failed"];
    await client.query(`insert into company values ('MF', 'Merrowick Ferries Ltd');
      insert into record_type values ('freightBooking', '{"label": "Freight booking", "above": ["customerAccount"]}', 1), ('vessel', '{"label": "Vessel"}', 2);
      insert into document_type values ('letter', '{}', 1);
      insert into access_class (company, document_type, confidential, record_types) values ('MF', 'letter', false, '{}');
      insert into connection (key, label, kind, settings) values ('c', 'Folders', 'disk', '{}');
      insert into folder (connection, path, path_folded, rule_stamp, kind) values ('c', 'Letters', 'letters', '', 'shelf')`);
    for (const [i, state] of states.entries())
      await client.query(
        `with d as (insert into document (code, company, document_type, title, properties, acl_id, filed_at, filed_by)
            select 'AC-' || $1::int, 'MF', 'letter', $2::text, '{}', (select id from access_class), now(), 'x' returning id)
          insert into placement (document_id, folder_id, name, name_folded, state, sha256, checked_at)
            select d.id, (select id from folder), $2::text, $2::text, $2::text, repeat('a', 64), now() from d`,
        [i, state],
      );
    for (const name of ["look", "print", "carryPlan", "read"]) await client.query("select graphile_worker.add_job($1, '{}'::json)", [name]);
    await client.end();
    await migrateDatabase(url);
    expect(await ask(url, "select key, definition from record_type order by key")).toEqual([
      { key: "freightBooking", definition: { label: "Freight booking", parent: ["customerAccount"] } },
      { key: "vessel", definition: { label: "Vessel" } },
    ]);
    expect(await ask(url, "select name, state from place order by document_id")).toEqual(
      states.map((name) => ({ name, state: { placed: "stored", adrift: "outOfSync" }[name] ?? name })),
    );
    await expect(ask(url, "update placement set state = 'placed'")).rejects.toThrow("placement_state_known");
    expect(
      (await ask<{ name: string }>(url, "select task_identifier as name from graphile_worker.jobs order by 1")).map((j) => j.name),
    ).toEqual(["analysePages", "executeMovePlan", "fingerprint", "read"]);
  });
  test("that cannot run say why, with PostgreSQL's own code", async () => {
    const url = new URL(await emptyDatabase());
    url.pathname = "/there_is_none";
    await expect(migrateDatabase(url.href)).rejects.toMatchObject({ code: "3D000" });
  });
});

describe("The database keeps the rules too", () => {
  let url = "";
  beforeAll(async () => {
    url = await emptyDatabase();
    await migrateDatabase(url);
    await ask(url, `insert into queue (key, label, "order") values ('general', 'General', 1)`);
  });
  const rules: readonly (readonly [string, string, RegExp])[] = [
    ["a hash that is none", "insert into content (sha256, size_bytes) values ('xyz', 1)", /content_sha256_is_hex/],
    [
      "a state that is not in the journey",
      `insert into content (sha256, size_bytes) values (repeat('b', 64), 1); insert into arrival (id, queue, source, file_name, sha256, size_bytes, received_at, state) values (gen_random_uuid(), 'general', 'drop', 'x', repeat('b', 64), 1, now(), 'lost')`,
      /arrival_state_known/,
    ],
    [
      "a line of the timeline that is changed",
      "insert into timeline_line (at, who, verb) values (now(), 'x', 'filed'); update timeline_line set who = 'y'",
      /append-only/,
    ],
    [
      "a line of the timeline that is removed",
      "insert into timeline_line (at, who, verb) values (now(), 'x', 'filed'); delete from timeline_line",
      /append-only/,
    ],
    [
      "a record of a company that is not there",
      "insert into record (company, type, key, title, key_folded, title_folded, lookup_text) values ('XX', 'vessel', 'a', 'b', 'a', 'b', 'ab')",
      /foreign key/,
    ],
  ];
  test.each(rules)("%s is refused", async (_, statement, why) => {
    await expect(ask(url, statement)).rejects.toThrow(why);
  });
});
