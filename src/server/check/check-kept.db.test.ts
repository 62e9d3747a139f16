import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, putRecord } from "../db/test-world.ts";
import { find } from "../search/find.ts";
import { sealLines } from "../timeline/seal-lines.ts";
import { checkKept } from "./check-kept.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let documentId = 0;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  const admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "supplierAccount", "S-1", { title: "Supplier" });
  await putRecord(admin, "MF", "freightBooking", "B-1", { title: "Booking", fields: { sailingDate: "2026-11-18" } });
  await putRecord(admin, "MF", "purchaseOrder", "PO-1", { title: "Order", parent: { type: "supplierAccount", key: "S-1" } });
  const filing = { documentType: "supplierInvoice", clips: [{ company: "MF", type: "purchaseOrder", key: "PO-1" }] };
  documentId = (await fileText(admin, "a.txt", "quetzal", filing)).id;
  await sealLines();
});
afterAll(async () => {
  await world.end();
});

const differences = async (repair: boolean) => (await checkKept({ repair })).map((c) => c.differences);

describe("Kept and computed agree (promise 9)", () => {
  test("after ordinary work", async () => expect(await differences(false)).toEqual([0, 0, 0, 0, 0, 0, 0, 0]));

  const damages: readonly (readonly [string, number, () => ReturnType<typeof sql>])[] = [
    ["a count on a record", 0, () => sql`update record set document_count = 7 where key = 'PO-1'`],
    ["a missing row beneath an account", 1, () => sql`delete from beneath_document where document_id = ${documentId}`],
    [
      "a row beneath that should not be",
      1,
      () =>
        sql`insert into beneath_document select r.id, ${documentId}, 1 from record r where r.key = 'PO-1' on conflict (record_id, document_id) do update set acl_id = 999`,
    ],
    ["a document missing in Find", 2, () => sql`delete from search_document where document_id = ${documentId}`],
    ["a reference of a record that is gone", 4, () => sql`delete from record_reference where kind = 'key'`],
    ["how a checklist stands", 5, () => sql`update completeness set missing = 0, in_hand = 1 where missing <> 0`],
    ["a checklist that nobody kept", 5, () => sql`delete from completeness`],
    ["a count of a type's records", 6, () => sql`insert into record_tally (company, type, count) values ('MF', 'purchaseOrder', 3)`],
    [
      "a count of records that there are none of",
      6,
      () => sql`insert into record_tally (company, type, count) values ('QS', 'vessel', -2)`,
    ],
    ["a folder that is no record's", 7, () => sql`delete from record_folder`],
    ["a folder that is not the record's own any more", 7, () => sql`update record_folder set is_own = false where is_own`],
    ["an old title in Find", 2, () => sql`update search_document set title = 'old' where document_id = ${documentId}`],
  ];
  test.each(damages)("%s is found and put right", async (_, which, damage) => {
    await db().execute(damage());
    expect((await differences(false))[which]).toBeGreaterThan(0);
    await checkKept({ repair: true });
    expect(await differences(false)).toEqual([0, 0, 0, 0, 0, 0, 0, 0]);
  });
  test("what was put right is found again by its words", async () => {
    await db().execute(sql`delete from search_document where document_id = ${documentId}`);
    await checkKept({ repair: true });
    expect((await find(await actorByMail("isla.rowe@merrowick.example"), { q: "quetzal", limit: 5, offset: 0 })).total).toBe(1);
  });
  test("a sealed line that was altered behind the program's back is found, and cannot be repaired (promise 10)", async () => {
    await expect(db().execute(sql`update timeline_line set who = 'somebody else' where verb = 'filed'`)).rejects.toThrow();
    await expect(db().execute(sql`delete from timeline_line where verb = 'filed'`)).rejects.toThrow();
    await db().execute(sql`alter table timeline_line disable trigger all`);
    await db().execute(sql`update timeline_line set who = 'somebody else' where verb = 'filed'`);
    await db().execute(sql`alter table timeline_line enable trigger all`);
    expect((await checkKept({ repair: true }))[3]).toMatchObject({ differences: 1, repaired: false });
  });
});
