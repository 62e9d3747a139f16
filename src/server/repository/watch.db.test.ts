import { sql } from "drizzle-orm";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase } from "../db/test-world.ts";
import { lastLook } from "./watch.ts";

const KEY = "companyFolders";
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
beforeAll(async () => {
  world = await makeSetUpDatabase();
});
afterAll(() => world.end());

const lookedAt = (secondsAgo: number, tookMs: number) =>
  db()
    .execute(sql`update connection set scanned_at = now() - make_interval(secs => ${secondsAgo}), scanned = jsonb_build_object('tookMs', ${tookMs}::int)
    where key = ${KEY}`);
const isDue = async (): Promise<boolean> => (await lastLook(KEY)).isDue;

test("a repository is looked through when it never was, and again when twenty times as long has gone by as it took", async () => {
  expect(await lastLook(KEY)).toEqual({ last: null, isDue: true });
  await lookedAt(10, 20);
  expect(await isDue()).toBe(false);
  await lookedAt(30, 20);
  expect(await isDue()).toBe(true);
  await lookedAt(30, 4000);
  expect(await isDue()).toBe(false);
  await lookedAt(90, 4000);
  expect(await isDue()).toBe(true);
});

test("no look begins while a move plan is carried out, unless that takes very long or waits for something", async () => {
  await lookedAt(60, 20);
  await db().execute(
    sql`insert into move_plan (id, cause, label, state, about, made_by) values (gen_random_uuid(), 'rule', 'moving', 'running', '{}', 'amber-clip')`,
  );
  expect(await isDue()).toBe(false);
  await lookedAt(601, 20);
  expect(await isDue()).toBe(true);
  await lookedAt(60, 20);
  await db().execute(sql`update move_plan set why = 'repository-unreachable'`);
  expect(await isDue()).toBe(true);
  await db().execute(sql`update move_plan set why = null`);
  expect(await isDue()).toBe(false);
  await db().execute(sql`update move_plan set state = 'done'`);
  expect(await isDue()).toBe(true);
});
