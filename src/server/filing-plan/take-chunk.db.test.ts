import { randomUUID } from "node:crypto";
import { type SQL, sql } from "drizzle-orm";
import { foldPath } from "#core/filing-plan/legal-name.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase } from "../db/test-world.ts";
import { foldSteps } from "./fold-steps.ts";
import { lockSettledFolder } from "./lock-settled-folder.ts";
import { type Chunk, takeChunk } from "./take-chunk.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let plan = "";
/** Folders of three shelves that move, by id. */
let ids: number[] = [];
const names = ["Maße", "Öle", "Tides"];

beforeAll(async () => {
  world = await makeSetUpDatabase();
});
afterAll(() => world.end());
beforeEach(async () => {
  await db().execute(sql`delete from move_plan`);
  await db().execute(sql`delete from folder where path_folded like 'shelf/%'`);
  plan = randomUUID();
  await db().execute(
    sql`insert into move_plan (id, cause, label, state, about, made_by) values (${plan}, 'rule', 'moving', 'running', '{}', 'amber-clip')`,
  );
  ids = [];
  for (const [position, name] of names.entries()) {
    const made = await db().execute<{ id: number }>(sql`insert into folder (connection, path, path_folded, kind, rule_stamp, made_at)
      values ('companyFolders', ${`Shelf/${name}`}, ${foldPath(["Shelf", name])}, 'shelf', '', now()) returning id`);
    ids.push(Number(made.rows[0]?.id));
    await db()
      .execute(sql`insert into move_step (plan_id, position, wave, kind, folder_id, from_connection, from_path, to_connection, to_path, shown_from)
      values (${plan}, ${position}, 0, 'folder', ${ids[position]}, 'companyFolders', ${`Shelf/${name}`}, 'companyFolders', ${`Archive/${name}`}, ${`Shelf/${name}`})`);
  }
});

/** Whether a row of a folder was ever locked or changed since it was written. */
const touched = async (): Promise<boolean> =>
  (await db().execute(sql`select from folder where id = any(${`{${ids.join(",")}}`}::bigint[]) and xmax <> '0'::xid`)).rows.length > 0;
const isUnderWay = async (): Promise<boolean> => (await db().execute(sql`select from steps_under_way`)).rows.length > 0;
/** Whether a line to the database is in some state. */
const isThere = async (state: SQL): Promise<boolean> =>
  (await db().execute(sql`select from pg_stat_activity where datname = current_database() and ${state}`)).rows.length > 0;
async function until(what: () => Promise<boolean>): Promise<void> {
  while (!(await what()));
}

test("folders that nobody holds are not written to be held, and those that stand elsewhere are said", async () => {
  expect((await takeChunk(plan, null, 10)).elsewhere).toEqual(new Map());
  expect(await touched()).toBe(false);
  await db().execute(sql`delete from steps_under_way`);
  await db().execute(sql`update folder set path = 'Shelf/Other' where id = ${ids[1]}`);
  await db().execute(sql`delete from folder where id = ${ids[2]}`);
  expect((await takeChunk(plan, null, 10)).elsewhere).toEqual(
    new Map([
      [ids[1], "Shelf/Other"],
      [ids[2], null],
    ]),
  );
});

test("who is putting something into one is waited for, and who comes later sees that it is under way", async () => {
  let chunk: Chunk | null = null;
  let taking: Promise<unknown> = Promise.resolve();
  await db().transaction(async (tx) => {
    expect(await lockSettledFolder(tx, ids[0] ?? 0)).toMatchObject({ path: "Shelf/Maße" });
    taking = takeChunk(plan, null, 10).then((taken) => (chunk = taken));
    await until(isUnderWay);
    // It waits for this transaction and for nothing else.
    await until(() => isThere(sql`wait_event_type = 'Lock'`));
    expect(chunk).toBeNull();
  });
  await taking;
  expect(chunk).toMatchObject({ kind: "steps", isBeginning: true, elsewhere: new Map() });
  let isStill = false;
  const waiting = db().transaction(async (tx) => {
    expect(await lockSettledFolder(tx, ids[0] ?? 0)).toMatchObject({ path: "Archive/Maße" });
    isStill = true;
  });
  await until(() => isThere(sql`state = 'idle in transaction' and query like '%steps_under_way w%'`));
  expect(isStill).toBe(false);
  // It holds nothing while it waits, so that where the folder is now can be written down.
  await db().transaction(async (tx) => {
    await tx.execute(sql`set local lock_timeout = '10s'`);
    await tx.execute(sql`update folder set path = 'Archive/Maße' where id = ${ids[0]}`);
  });
  await db().execute(sql`delete from steps_under_way`);
  await waiting;
  expect(isStill).toBe(true);
});

test("steps of a plan that was drawn before their paths were kept folded get them, once", async () => {
  await foldSteps(plan);
  const folded = async (): Promise<unknown> =>
    (await db().execute(sql`select from_folded as was, to_folded as "is" from move_step where plan_id = ${plan} order by position`)).rows;
  const right = names.map((name) => ({ was: foldPath(["Shelf", name]), is: foldPath(["Archive", name]) }));
  expect(await folded()).toEqual(right);
  expect(right[0]).toEqual({ was: "shelf/masse", is: "archive/masse" });
  await db().execute(sql`update move_step set to_path = 'Elsewhere' where position = 1`);
  await foldSteps(plan);
  expect(await folded()).toEqual(right);
});
