import { sql } from "drizzle-orm";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase } from "../db/test-world.ts";
import { checkSeals, sealLines, sealUnlessMoving, VERY_LATE_MS } from "./seal-lines.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  await sealLines();
});
afterAll(() => world.end());

const line = (id?: number) =>
  id === undefined
    ? sql`insert into timeline_line (at, who, verb) values (now(), 'amber-clip', 'movePlanBegun')`
    : sql`insert into timeline_line (id, at, who, verb) values (${id}, now(), 'amber-clip', 'movePlanBegun')`;
const nextId = async (): Promise<number> =>
  Number((await db().execute<{ id: string }>(sql`select nextval('timeline_line_id_seq') as id`)).rows[0]?.id);
const makeOlder = (ms: number) => db().execute(sql`update timeline_seal set made_at = made_at - ${`${ms} ms`}::interval`);

test("a line that is seen after later ones were sealed is sealed next, and nothing twice", async () => {
  const id = await nextId();
  await db().execute(line());
  expect(await sealLines()).toBe(1);
  await db().execute(line(id));
  expect(await sealLines()).toBe(1);
  expect(await sealLines()).toBe(0);
  expect(await checkSeals()).toEqual([]);
});

test("one that took longer than the beat looks back is sealed by the upkeep", async () => {
  const id = await nextId();
  await db().execute(line());
  expect(await sealLines()).toBe(1);
  await makeOlder(VERY_LATE_MS / 2);
  await db().execute(line(id));
  expect(await sealLines()).toBe(0);
  expect(await sealLines(VERY_LATE_MS)).toBe(1);
  expect(await sealLines(VERY_LATE_MS)).toBe(0);
  expect(await checkSeals()).toEqual([]);
});

test("a seal is not written into its lines, and holds more of them than one batch takes", async () => {
  await db().execute(
    sql`insert into timeline_line (at, who, verb) select now(), 'amber-clip', 'movePlanBegun' from generate_series(1, 1200)`,
  );
  expect(await sealLines()).toBe(1200);
  const { rows } = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from timeline_seal where line_count >= 200 and isempty(lines - int8multirange(range_merge(lines)))`,
  );
  expect(rows[0]?.n).toBeGreaterThanOrEqual(3);
  expect(await checkSeals()).toEqual([]);
});

test("lines that a move plan writes wait for its end, unless it waits for something itself", async () => {
  await db().execute(
    sql`insert into move_plan (id, cause, label, state, about, made_by) values (gen_random_uuid(), 'rule', 'moving', 'running', '{}', 'amber-clip')`,
  );
  for (const [change, left] of [
    [sql`state = 'undoing'`, 1],
    [sql`why = 'repository-unreachable'`, 0],
    [sql`why = null, state = 'done'`, 0],
  ] as const) {
    await db().execute(line());
    await db().execute(sql`update move_plan set ${change}`);
    await sealUnlessMoving();
    expect(await sealLines()).toBe(left);
  }
});

test("a line that somebody puts among those that were sealed long ago is found (promise 10)", async () => {
  const id = await nextId();
  await db().execute(line());
  expect(await sealLines()).toBe(1);
  await makeOlder(VERY_LATE_MS);
  await db().execute(line(id));
  expect(await sealLines(VERY_LATE_MS)).toBe(0);
  expect(await checkSeals()).toEqual([{ sealId: null, why: "added" }]);
});
