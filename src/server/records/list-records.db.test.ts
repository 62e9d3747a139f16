import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { documentFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { countRecords, listRecords, recordSorts } from "./list-records.ts";
import { addUpTallies, countWrongTallies } from "./record-tallies.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const seen = () => documentFilter(admin, "see", sql`d.acl_id`);
/** What each was entered with, in that order; amounts and dates are the same now and then, or missing. */
const entered = Array.from({ length: 23 }, (_, n) => ({
  company: n % 3 === 0 ? "QS" : "MF",
  key: `T-${(n * 7) % 23}`,
  title: `Title ${(n * 5) % 11}`,
  date: n % 4 === 0 ? null : `2026-10-${String(1 + (n % 9)).padStart(2, "0")}`,
  amount: n % 5 === 0 ? null : `${(n * 13) % 40}.00`,
}));

beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  for (const { company, key, title, date, amount } of entered)
    await putRecord(admin, company, "purchaseOrder", key, { title, date, amount, currency: amount === null ? null : "GBP" });
});
afterAll(async () => {
  await world.end();
});

/** All pages of a table, one after the other. */
async function allPages(wish: Partial<Parameters<typeof listRecords>[1]>, limit: number) {
  const all = [];
  for (let offset = 0; ; offset += limit) {
    const page = await listRecords(admin, { type: "purchaseOrder", limit, offset, ...wish }, await seen());
    all.push(...page.items);
    if (page.items.length < limit) return { all, ...page };
  }
}

test.each(recordSorts.flatMap((sort) => [true, false].map((down) => [sort, down] as const)))(
  "by %s, downwards %s: the pages of both companies are one order, each record once, what has nothing there last",
  async (sort, down) => {
    const { all, total, totalIsExact } = await allPages({ sort, down }, 4);
    expect({ total, totalIsExact }).toEqual({ total: entered.length, totalIsExact: true });
    expect(new Set(all.map((r) => `${r.company} ${r.key}`)).size).toBe(entered.length);
    const value = (r: (typeof all)[number]): string | number | null =>
      sort === "key"
        ? r.key
        : sort === "title"
          ? r.title
          : sort === "date"
            ? r.date
            : sort === "amount"
              ? r.amount && Number(r.amount)
              : sort === "papers"
                ? r.documents
                : entered.findIndex((e) => e.company === r.company && e.key === r.key);
    const values = all.map(value);
    const filled = values.filter((v) => v !== null);
    expect(values.slice(filled.length).every((v) => v === null)).toBe(true);
    // The database folds and compares texts in its own way; it is asked for the order of keys and titles.
    if (sort === "key" || sort === "title") {
      const asked = await db().execute<{ v: string }>(
        sql`select ${sort === "key" ? sql`key` : sql`title`} as v from record where type = 'purchaseOrder' order by ${sort === "key" ? sql`key` : sql`title_folded`} ${down ? sql`desc` : sql`asc`}`,
      );
      expect(values).toEqual(asked.rows.map((r) => r.v));
    } else expect(filled).toEqual([...filled].sort((a, b) => (Number(a < b) - Number(a > b)) * (down ? 1 : -1)));
  },
);

test("a filter leaves what fits, and its count; one company leaves its own", async () => {
  const late = await allPages({ from: "2026-10-05", sort: "date" }, 3);
  expect(late.total).toBe(entered.filter((e) => e.date !== null && e.date >= "2026-10-05").length);
  expect(late.all).toHaveLength(late.total);
  const mine = await allPages({ company: "QS", q: "t-1" }, 50);
  expect(mine.all.map((r) => r.key).sort()).toEqual(
    entered
      .filter((e) => e.company === "QS" && e.key.startsWith("T-1"))
      .map((e) => e.key)
      .sort(),
  );
  const nobody = await listRecords({ ...admin, grants: [] }, { type: "purchaseOrder", limit: 5, offset: 0 }, await seen());
  expect(nobody).toMatchObject({ items: [], total: 0 });
});

test("a document on two records of a type is counted once, and not at all for those who may not see it", async () => {
  const clips = entered.slice(1, 3).map(({ company, key }) => ({ company, type: "purchaseOrder", key }));
  await fileText(admin, "both.txt", "for two orders", { documentType: "letter", clips });
  const of = async (actor: Actor) =>
    (await countRecords(actor, undefined, await documentFilter(actor, "see", sql`d.acl_id`))).find((c) => c.type === "purchaseOrder");
  expect(await of(admin)).toEqual({ type: "purchaseOrder", records: entered.length, papers: 1 });
  const blind: Actor = {
    ...admin,
    grants: [{ company: "MF", recordTypes: "all", documentTypes: ["photo"], confidential: false, actions: ["see"] }],
  };
  expect(await of(blind)).toEqual({ type: "purchaseOrder", records: entered.filter((e) => e.company === "MF").length, papers: 0 });
});

test("tallies are added up by several at once while records come in and go, and their sum holds", async () => {
  const many = 700;
  await db().execute(
    sql`insert into record_tally (company, type, count) select 'MF', 'purchaseOrder', case g % 2 when 0 then 1 else -1 end from generate_series(1, ${many}) g`,
  );
  await Promise.all([
    ...[1, 2, 3].map(() => addUpTallies()),
    ...Array.from({ length: 12 }, (_, n) => putRecord(admin, "MF", "purchaseOrder", `LATE-${n}`, { title: `Late ${n}` })),
    db().transaction(async (tx) => {
      await tx.execute(
        sql`insert into record (company, type, key, title, key_folded, title_folded, lookup_text) values ('MF', 'purchaseOrder', 'GONE', 'x', 'x', 'x', 'x')`,
      );
      await tx.execute(sql`delete from record where key = 'GONE'`);
    }),
  ]);
  await addUpTallies();
  expect(await countWrongTallies(false)).toBe(0);
  const rows = await db().execute<{ n: number }>(sql`select count(*)::int as n from record_tally`);
  expect(rows.rows[0]?.n).toBeLessThan(many);
  expect((await listRecords(admin, { type: "purchaseOrder", limit: 1, offset: 0 }, await seen())).total).toBe(entered.length + 12);
});
