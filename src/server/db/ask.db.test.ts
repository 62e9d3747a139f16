import { sql } from "drizzle-orm";
import { ask } from "./ask.ts";
import { db, pool } from "./connect.ts";
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
      expect(await ask(numbers(from, null))).toEqual(plain);
    }
    expect(await ask(numbers(1, "x"))).toEqual([1, 2, 3].map((n) => ({ n, none: "x" })));
  });

  it("is prepared once on each line, and asked many at a time", async () => {
    const answers = await Promise.all(Array.from({ length: 60 }, (_, i) => ask<{ n: number }>(numbers(i, null))));
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
    await expect(ask(sql`select * from no_such_table_at_all`)).rejects.toThrow(/no_such_table_at_all/);
    await expect(ask(numbers("x" as unknown as number, null))).rejects.toThrow();
    expect((await ask<{ n: number }>(numbers(7, null)))[0]?.n).toBe(7);
  });

  it("has days, instants and whole numbers as everything else has them", async () => {
    const [row] = await ask<{ day: string; big: number; at: Date }>(
      sql`select date '2026-11-26' as day, 9007199254740991::bigint as big, timestamptz '2026-11-26T08:00:00Z' as at`,
    );
    expect(row).toMatchObject({ day: "2026-11-26", big: 9007199254740991 });
    expect(new Date(row?.at ?? 0).toISOString()).toBe("2026-11-26T08:00:00.000Z");
  });
});
