import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook, takeText } from "../db/test-world.ts";
import { fileAway } from "../documents/file-away.ts";
import type { Actor } from "../people/load-actor.ts";
import { clearAnalyses } from "./cache-analysis.ts";
import { suggestAll } from "./suggest-all.ts";
import { suggestFor, suggestForSome } from "./suggest-for.ts";
import { changeWeights } from "./weights.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const email = "accounts@tarrin-fuels.example";
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "supplierAccount", "S-2004", {
    title: "Tarrin Marine Fuels",
    fields: { name: "Tarrin Marine Fuels", email },
  });
  for (const key of ["PO-8001", "PO-8002", "PO-8003"]) await order(key);
});
afterAll(() => world.end());

const order = (key: string) =>
  putRecord(admin, "MF", "purchaseOrder", key, {
    title: `Rope for ${key}`,
    status: "received",
    date: "2026-11-01",
    amount: "100.00",
    currency: "GBP",
    fields: { total: "120.00", net: "100.00" },
    parent: { type: "supplierAccount", key: "S-2004" },
  });
const invoice = (number: string, orderKey: string) =>
  makePaper(
    [
      "Tarrin Marine Fuels",
      email,
      "INVOICE",
      `Invoice No. ${number}`,
      `Your order: ${orderKey}`,
      "Net 100.00",
      "VAT 20.00",
      "Total GBP 120.00",
    ].join("\n"),
  );
const take = async (number: string, orderKey: string): Promise<ArrivalId> =>
  takeAndLook(admin, `document ${number}.pdf`, await invoice(number, orderKey), { queue: "payables" });
/** What was found for an arrival, without when. */
const found = async (id: string): Promise<Record<string, unknown>> => {
  const { rows } = await db().execute<{ row: Record<string, unknown> }>(
    sql`select to_jsonb(f) - 'made_at' - 'arrival_id' as row from arrival_reading f where arrival_id = ${id}`,
  );
  return rows[0]?.row ?? {};
};
/** The page its number was read on: none where it was read off running text, since the page has no words. */
const pageOfNumber = async (id: string): Promise<number | null | undefined> =>
  ((await found(id))["readings"] as readonly { field: string; page: number | null }[]).find((r) => r.field === "documentNumber")?.page;
const looks = async (): Promise<readonly string[]> =>
  (await db().execute<{ id: string }>(sql`select arrival_id as id from arrival_look`)).rows.map((r) => r.id);
/** Takes the words off a document behind the program's back: whatever is found afterwards was not read again. */
const blank = (id: string) =>
  db().execute(sql`update content_page set words = '[]' where sha256 = (select sha256 from arrival where id = ${id})`);

test("what was read once is not read again, and gives the same", async () => {
  const id = await take("88-1", "PO-8001");
  const before = await found(id);
  expect(await looks()).toContain(id);
  await blank(id);
  await suggestFor(id);
  expect(await found(id)).toEqual(before);
  expect(before).toMatchObject({ suggestions: [{ reasons: expect.arrayContaining([expect.objectContaining({ kind: "orderNamed" })]) }] });
});

test("records that changed meanwhile are found by what was read", async () => {
  const id = await take("88-2", "PO-8099");
  await blank(id);
  await order("PO-8099");
  await suggestFor(id);
  const { suggestions } = await found(id);
  const { rows } = await db().execute<{ key: string }>(
    sql`select key from record where id = ${(suggestions as readonly { recordId: number }[])[0]?.recordId}`,
  );
  expect(rows[0]?.key).toBe("PO-8099");
});

test.each([
  [
    "its content was looked at anew",
    (id: string) => sql`update content set looked = looked where sha256 = (select sha256 from arrival where id = ${id})`,
  ],
  [
    "something was learnt of its sender",
    (id: string) => sql`insert into field_place (sender_key, arrival_id, field, value, page, x, y, right_edge, shape, made_at, made_by)
      select sender_key, arrival_id, 'batch', 'none', 'first', 0.9, 0.9, 0.99, '9', now(), 'x' from arrival_reading where arrival_id = ${id}`,
  ],
  ["what was kept is broken", (id: string) => sql`update arrival_look set body = '{"look":' where arrival_id = ${id}`],
  ["it was kept by an older program", (id: string) => sql`update arrival_look set made_at = '2020-01-01' where arrival_id = ${id}`],
])("it is read again when %s", async (_, change) => {
  const id = await take(`88-3${_.length}`, "PO-8002");
  expect(await pageOfNumber(id)).toBe(1);
  await blank(id);
  await suggestFor(id);
  expect(await pageOfNumber(id)).toBe(1);
  await db().execute(change(id));
  await suggestFor(id);
  expect(await pageOfNumber(id)).toBeNull();
});

test("several at once are found what each is found alone", async () => {
  const mail = "From: Tam <tam@tarrin.example>\r\nTo: x@y.example\r\nSubject: PO-8001\r\nContent-Type: text/plain\r\n\r\nWhere is PO-8003?";
  const ids = [
    await take("88-41", "PO-8001"),
    await take("88-42", "PO-8003"),
    await takeText(admin, "about PO-8002.eml", mail),
    await takeText(admin, "nothing.txt", "nothing to see"),
    await takeText(admin, "empty.csv", "a;b\n"),
  ];
  const alone = [];
  for (const id of ids) {
    await suggestFor(id);
    alone.push(await found(id));
  }
  await suggestForSome(ids);
  expect(await Promise.all(ids.map(found))).toEqual(alone);
  // Those that were never read are read on the way; those that do not wait, or are not there, are passed over.
  await db().execute(sql`delete from arrival_look where arrival_id = ${ids[1]}`);
  await suggestForSome([...ids, "00000000-0000-4000-8000-000000000000"]);
  expect(await Promise.all(ids.map(found))).toEqual(alone);
  await suggestForSome([]);
});

test("all that waits is looked at again when what evidence weighs has changed, and nothing else", async () => {
  const [id, filed] = [await take("88-51", "PO-8001"), await take("88-52", "PO-8002")];
  must(await fileAway(admin, filed, { documentType: "letter", clips: [{ company: "MF", type: "purchaseOrder", key: "PO-8002" }] }));
  expect(await suggestAll()).toBe(0);
  await db().execute(sql`insert into match_weights (version, weights, papers, before, after, is_used, made_at, made_by)
    values (2, '{"orderNamed": 9}', 60, 0.5, 0.4, false, now(), 'program')`);
  await db().execute(sql`delete from graphile_worker._private_jobs`);
  must(await changeWeights(admin, { act: "use", version: 2 }));
  const { rows } = await db()
    .execute(sql`select from graphile_worker._private_jobs j join graphile_worker._private_tasks t on t.id = j.task_id
    where t.identifier = 'suggestAll'`);
  expect(rows).toHaveLength(1);
  const open = await db().execute<{ n: number }>(
    sql`select count(*)::int as n from arrival a join arrival_reading f on f.arrival_id = a.id where a.state = 'ready'`,
  );
  expect(await suggestAll()).toBe(open.rows[0]?.n);
  expect((await found(id))["weights_version"]).toBe(2);
  expect((await found(filed))["weights_version"]).toBe(1);
  // Done is done.
  expect(await suggestAll()).toBe(0);
});

test("what was kept goes once the document waits no more", async () => {
  const filed = await take("88-6", "PO-8003");
  const waits = await take("88-7", "PO-8003");
  must(await fileAway(admin, filed, { documentType: "letter", clips: [{ company: "MF", type: "purchaseOrder", key: "PO-8003" }] }));
  expect(await clearAnalyses()).toBeGreaterThanOrEqual(1);
  const left = await looks();
  expect(left).toContain(waits);
  expect(left).not.toContain(filed);
});
