import { sql } from "drizzle-orm";
import { queryAll, queryPrepared } from "./query-prepared.ts";
import { shareInFlight, db, onOneLine, pool } from "./connect.ts";
import { keptBySetUp } from "./kept-by-set-up.ts";
import { makeTestDatabase } from "./test-world.ts";

let world: Awaited<ReturnType<typeof makeTestDatabase>>;
beforeAll(async () => {
  world = await makeTestDatabase();
});
afterAll(() => world.end());

const numbers = (from: number, none: string | null) =>
  sql`select n::int as n, ${none}::text as none from generate_series(${from}::int, ${from + 2}::int) n order by n`;

describe("A statement that is asked over and over", () => {
  it("answers what it would if it were asked once, whatever its parameters", async () => {
    for (const from of [1, 5, 100, 1, -3]) {
      const plain = (await db().execute<{ n: number; none: string | null }>(numbers(from, null))).rows;
      expect(await queryPrepared(numbers(from, null))).toEqual(plain);
    }
    expect(await queryPrepared(numbers(1, "x"))).toEqual([1, 2, 3].map((n) => ({ n, none: "x" })));
  });

  it("is prepared once on each line, and asked many at a time", async () => {
    const answers = await Promise.all(Array.from({ length: 60 }, (_, i) => queryPrepared<{ n: number }>(numbers(i, null))));
    expect(answers.map((a) => a[0]?.n)).toEqual(Array.from({ length: 60 }, (_, i) => i));
    const client = await pool().connect();
    try {
      const prepared = await client.query<{ n: string }>(
        "select count(*) as n from pg_prepared_statements where statement like '%generate_series%'",
      );
      expect(Number(prepared.rows[0]?.n)).toBeLessThanOrEqual(1);
    } finally {
      client.release();
    }
  });

  it("that is wrong says so, and the next one is answered as ever", async () => {
    await expect(queryPrepared(sql`select * from no_such_table_at_all`)).rejects.toThrow(/no_such_table_at_all/);
    await expect(queryPrepared(numbers("x" as unknown as number, null))).rejects.toThrow();
    expect((await queryPrepared<{ n: number }>(numbers(7, null)))[0]?.n).toBe(7);
  });

  it("has days, instants and whole numbers as everything else has them", async () => {
    const [row] = await queryPrepared<{ day: string; big: number; at: Date }>(
      sql`select date '2026-11-26' as day, 9007199254740991::bigint as big, timestamptz '2026-11-26T08:00:00Z' as at`,
    );
    expect(row).toMatchObject({ day: "2026-11-26", big: 9007199254740991 });
    expect(new Date(row?.at ?? 0).toISOString()).toBe("2026-11-26T08:00:00.000Z");
  });
});

describe("Work on a line of its own", () => {
  const line = async (): Promise<number> => (await queryPrepared<{ pid: number }>(sql`select pg_backend_pid() as pid`))[0]?.pid ?? 0;

  it("asks all it asks on that line, built or written, and work within it does, too", async () => {
    const lines = await onOneLine(() =>
      Promise.all([
        line(),
        onOneLine(line),
        db()
          .execute<{ pid: number }>(sql`select pg_backend_pid() as pid`)
          .then((r) => r.rows[0]?.pid),
      ]),
    );
    expect(new Set(lines).size).toBe(1);
    expect(lines).not.toContain(await line());
  });

  it("has each answer where it belongs, however much is asked at once", async () => {
    const asked = await onOneLine(() =>
      Promise.all(
        Array.from({ length: 200 }, (_, i) => queryPrepared<{ n: number }>(i % 3 === 0 ? numbers(i, null) : sql`select ${i}::int as n`)),
      ),
    );
    expect(asked.map((a) => a[0]?.n)).toEqual(Array.from({ length: 200 }, (_, i) => i));
  });

  it("goes on after a question that is wrong, and leaves the line as it was", async () => {
    const answers = await onOneLine(() =>
      Promise.allSettled([
        queryPrepared(numbers(1, null)),
        queryPrepared(sql`select * from no_such_table_at_all`),
        queryPrepared<{ n: number }>(sql`select 5 as n`),
      ]),
    );
    expect(answers.map((a) => a.status)).toEqual(["fulfilled", "rejected", "fulfilled"]);
    for (let i = 0; i < 12; i++) expect(await onOneLine(() => queryPrepared(sql`select 1 as n`))).toEqual([{ n: 1 }]);
  });

  it("lets more pieces of work wait than there are lines, and transactions within them go their own way", async () => {
    const done = await Promise.all(
      Array.from({ length: 30 }, (_, i) =>
        onOneLine(async () => {
          const mine = await line();
          const theirs = await db().transaction(
            async (tx) => (await tx.execute<{ pid: number }>(sql`select pg_backend_pid() as pid`)).rows[0],
          );
          expect(theirs?.pid).not.toBe(mine);
          return i;
        }),
      ),
    );
    expect(done).toEqual(Array.from({ length: 30 }, (_, i) => i));
  });

  it("asks once what all of its parts need; outside, those that ask in the same moment share it", async () => {
    let times = 0;
    const count = () =>
      shareInFlight("n", async () => {
        const mine = ++times;
        await line();
        return mine;
      });
    expect(await onOneLine(async () => [await count(), await count()])).toEqual([1, 1]);
    expect(await Promise.all([count(), count()])).toEqual([2, 2]);
    expect(await count()).toBe(3);
  });
});

describe("What is kept until set-up changes", () => {
  const change = () =>
    db().execute(
      sql`insert into document_type (key, definition, "order") values ('kept', '{}', 999) on conflict (key) do update set "order" = 999`,
    );

  it("is loaded once, and anew after each change that was committed", async () => {
    let loads = 0;
    const load = keptBySetUp(async () => ++loads);
    expect([await load(), await load()]).toEqual([1, 1]);
    await change();
    expect([await load(), await load()]).toEqual([2, 2]);
    await expect(
      db().transaction(async (tx) => {
        await tx.execute(sql`delete from document_type where key = 'kept'`);
        throw new Error("taken back");
      }),
    ).rejects.toThrow("taken back");
    expect(await load()).toBe(2);
    for (const table of ["record_type", "checklist", "section_template", "folder_rule"]) {
      const before = await load();
      await db().execute(sql.raw(`delete from ${table} where false`));
      expect(await load()).toBe(before + 1);
    }
  });

  it("that could not be loaded is tried again", async () => {
    let times = 0;
    const load = keptBySetUp(async () => {
      if (++times === 1) throw new Error("not now");
      return times;
    });
    await expect(load()).rejects.toThrow("not now");
    expect(await load()).toBe(2);
  });
});

describe("Some questions put together", () => {
  /** Questions that say how many of them are under way. */
  const asked = (most: { at: number; ever: number }) =>
    [1, 2, 3].map((n) => ({
      // Begins when it is waited for, as what is put to a transaction does.
      then: (done: (answer: number) => void) => {
        most.ever = Math.max(most.ever, ++most.at);
        setImmediate(() => {
          most.at--;
          done(n);
        });
      },
    }));

  it("are asked at once, but one after the other within a transaction", async () => {
    const outside = { at: 0, ever: 0 };
    expect(await queryAll(db(), asked(outside))).toEqual([1, 2, 3]);
    expect(outside.ever).toBe(3);
    const inside = { at: 0, ever: 0 };
    expect(await db().transaction((tx) => queryAll(tx, asked(inside)))).toEqual([1, 2, 3]);
    expect(inside.ever).toBe(1);
  });
});
