import { eq, sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { setAside } from "../arrivals/change-state.ts";
import { arrival } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { lookUp } from "../records/look-up.ts";
import { noteOpened } from "../records/opened.ts";
import { listOutOfSync } from "../repository/list-out-of-sync.ts";
import { find } from "./find.ts";
import { findWaiting } from "./find-waiting.ts";
import { indexWaiting, keepWaitingIndex } from "./index-waiting.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let light: Actor;
const order = (key: string) => ({ company: "MF", type: "purchaseOrder", key });
beforeAll(async () => {
  world = await makeSetUpDatabase();
  [admin, clerk, light] = (await Promise.all(
    ["isla.rowe", "tam.corrigall", "pell.ashby"].map((n) => actorByMail(`${n}@merrowick.example`)),
  )) as [Actor, Actor, Actor];
  for (const [account, key] of [
    ["S-1", "PO-1"],
    ["S-2", "PO-2"],
  ] as const) {
    await putRecord(admin, "MF", "supplierAccount", account, { title: `Supplier ${account}` });
    await putRecord(admin, "MF", "purchaseOrder", key, { title: `Rope for ${key}`, parent: { type: "supplierAccount", key: account } });
    await fileText(admin, `${key}.txt`, `rope and tackle ${key}`, { documentType: "other", clips: [order(key)], properties: {} });
  }
});
afterAll(() => world.end());
const shaOf = async (id: string) =>
  (await db().select({ sha256: arrival.sha256 }).from(arrival).where(eq(arrival.id, id)))[0]?.sha256 ?? "";

describe("Arrivals that are not filed yet", () => {
  test("are found by their words and name by those who may see them, until they wait no longer", async () => {
    const id = await takeText(admin, "Zanzibar list.txt", "cloves and cinnamon", { queue: "payables" });
    await indexWaiting(await shaOf(id));
    const found = await findWaiting(clerk, { q: "cinnamon" });
    expect(found).toMatchObject({ total: 1, items: [{ id, fileName: "Zanzibar list.txt", queue: "payables" }] });
    expect(found.items[0]?.snippet.some((p) => p.hit && p.text === "cinnamon")).toBe(true);
    expect((await findWaiting(clerk, { q: "zanzibar" })).total).toBe(1);
    expect((await findWaiting(clerk, { q: "cinnamon -cloves" })).total).toBe(0);
    expect(await findWaiting(clerk, { q: "" })).toEqual({ items: [], total: 0 });
    // In no queue of hers, and sent by somebody else.
    expect(await findWaiting(light, { q: "cinnamon" })).toEqual({ items: [], total: 0 });
    must(await setAside(admin, id, "not needed"));
    expect((await findWaiting(clerk, { q: "cinnamon" })).total).toBe(0);
  });
  test("that are missing in Find are entered by the upkeep, and those that wait no longer taken out", async () => {
    const id = await takeText(admin, "later.txt", "nutmeg", { queue: "payables" });
    await db().execute(sql`delete from search_waiting`);
    expect(await keepWaitingIndex()).toBeGreaterThan(0);
    expect((await findWaiting(clerk, { q: "nutmeg" })).total).toBe(1);
    must(await setAside(admin, id, "not needed"));
    await keepWaitingIndex();
    const { rows } = await db().execute(sql`select from search_waiting where arrival_id = ${id}`);
    expect(rows).toHaveLength(0);
  });
});

describe("Everything of one account", () => {
  const titles = async (actor: Actor, within: string) =>
    (await find(actor, { q: "rope", within, limit: 10, offset: 0 })).items.flatMap((d) => d.records.map((r) => r.key));
  test("is found by its number: its own documents and those of its child records", async () => {
    expect(await titles(admin, "supplierAccount:S-1")).toEqual(["PO-1"]);
    expect(await titles(admin, "purchaseOrder:PO-2")).toEqual(["PO-2"]);
    expect(await titles(admin, "supplierAccount:none")).toEqual([]);
  });
  test("is nothing for a person who may not see the account", async () => expect(await titles(light, "supplierAccount:S-1")).toEqual([]));
});

describe("The look-up", () => {
  test("offers the child records of a chosen account first, and all others after them", async () => {
    const keys = (await lookUp(admin, { q: "rope", near: "supplierAccount:S-2", limit: 10 })).map((h) => h.key);
    expect(keys.slice(0, 2)).toEqual(["PO-2", "PO-1"]);
    expect((await lookUp(admin, { q: "", near: "supplierAccount:S-1", limit: 3 }))[0]?.key).toBe("PO-1");
  });
  test("lists only what the person opened, the last one first", async () => {
    expect(await lookUp(clerk, { q: "", opened: "1", limit: 10 })).toEqual([]);
    for (const key of ["PO-1", "PO-2"]) must(await noteOpened(clerk, order(key)));
    expect((await lookUp(clerk, { q: "", opened: "1", limit: 10 })).map((h) => h.key)).toEqual(["PO-2", "PO-1"]);
    must(await noteOpened(clerk, order("PO-1")));
    expect((await lookUp(clerk, { q: "", opened: "1", limit: 10 })).map((h) => h.key)).toEqual(["PO-1", "PO-2"]);
    expect(await lookUp(admin, { q: "", opened: "1", limit: 10 })).toEqual([]);
    expect(await noteOpened(light, order("PO-1"))).toMatchObject({ refusal: { code: "not-found" } });
  });
});

test("a document out of sync is on the desk of whoever is responsible, also by way of the account, and says so in Find", async () => {
  const { items } = await find(admin, { q: "rope", within: "purchaseOrder:PO-1", limit: 1, offset: 0 });
  await db().execute(
    sql`update placement set state = 'outOfSync', why = 'gone' where document_id = (select id from document where code = ${items[0]?.code})`,
  );
  expect((await find(admin, { q: "rope", limit: 10, offset: 0 })).items.find((d) => d.code === items[0]?.code)?.state).toBe("outOfSync");
  expect(await listOutOfSync(clerk)).toEqual({ items: [], total: 0 });
  await db().execute(sql`update record set responsible_id = ${clerk.id} where key = 'S-1'`);
  expect(await listOutOfSync(clerk, "MF")).toMatchObject({
    total: 1,
    items: [{ code: items[0]?.code, why: "gone", record: { key: "PO-1" } }],
  });
  expect((await listOutOfSync(clerk, "QS")).total).toBe(0);
});
