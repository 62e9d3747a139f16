import { sql } from "drizzle-orm";
import type { InvoiceCompared } from "#core/comparing/compare-invoice.ts";
import type { StatementCompared } from "#core/comparing/compare-statement.ts";
import { startingTolerance } from "#core/comparing/tolerance.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook } from "../db/test-world.ts";
import { fileAway } from "../documents/file-away.ts";
import type { Actor } from "../people/load-actor.ts";
import { saveTolerance } from "../settings/load-settings.ts";
import { loadComparison } from "./load-comparison.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const parent = { type: "supplierAccount", key: "S-2010" };
const lines = [
  { text: "Toner, black", quantity: "10", unit: "each", price: "74.20", amount: "742.00" },
  { text: "Deck paint, oxide red, 20 l", quantity: "2", unit: "tin", price: "142.00", amount: "284.00" },
];
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "supplierAccount", "S-2010", {
    title: "Brae & Holme Chandlery",
    currency: "GBP",
    fields: { name: "Brae & Holme Chandlery", email: "accounts@brae-holme.example" },
  });
  await putRecord(admin, "MF", "purchaseOrder", "PO-5001", {
    title: "Stores",
    status: "received",
    currency: "GBP",
    fields: { net: "1026.00", total: "1231.20" },
    lines,
    parent,
  });
  await putRecord(admin, "MF", "goodsReceipt", "GR-1", {
    title: "Received",
    fields: { orderNumber: "PO-5001" },
    lines,
    parent,
    follows: [{ type: "purchaseOrder", key: "PO-5001" }],
  });
  await putRecord(admin, "MF", "supplierInvoice", "SI-1", {
    title: "BH-301",
    status: "posted",
    fields: { documentNumber: "BH-301", documentDate: "2026-10-04", total: "214.40", currency: "GBP" },
    parent,
  });
  await putRecord(admin, "MF", "supplierInvoice", "SI-2", {
    title: "BH-302",
    status: "posted",
    fields: { documentNumber: "BH-302", documentDate: "2026-10-09", total: "96.12", currency: "GBP" },
    parent,
  });
  await putRecord(admin, "MF", "payment", "PY-2", { title: "Paid", parent, follows: [{ type: "supplierInvoice", key: "SI-2" }] });
});
afterAll(() => world.end());

const table = (number: string, rows: readonly string[]): string =>
  ["Brae & Holme Chandlery", "INVOICE", `Invoice No. ${number}`, "Invoice date: 18 November 2026", "Your order: PO-5001", ...rows].join(
    "\n",
  );
const take = async (name: string, text: string): Promise<ArrivalId> => takeAndLook(admin, name, Buffer.from(text), { queue: "payables" });
const beside = (id: ArrivalId, over: Record<string, string> = {}, who = admin) =>
  loadComparison(who, id, { company: "MF", type: "purchaseOrder", key: "PO-5001", documentType: "supplierInvoice", ...over });
const good = [
  "Description            Qty    Price     Amount",
  "Toner, black           10     74.20     742.00",
  "Deck paint, oxide red  2      142.00    284.00",
  "",
  "Net        1026.00",
  "VAT        205.20",
  "Total GBP  1231.20",
];

test("an invoice beside its order: lines with what was received, in a sentence", async () => {
  const id = await take("good.txt", table("BH-400", good));
  const found = must(await beside(id));
  expect(found.sentence).toEqual({ text: "Matches PO-5001, all 2 lines", tone: "good" });
  expect((found.compared as InvoiceCompared).lines.map((l) => [l.received, l.state])).toEqual([
    ["10", "same"],
    ["2", "same"],
  ]);
  // From its receipt the order is found by the chain.
  expect(must(await beside(id, { type: "goodsReceipt", key: "GR-1" })).beside?.key).toBe("PO-5001");
});

test("tolerance is what the settings say", async () => {
  const id = await take(
    "dear.txt",
    table(
      "BH-401",
      good.map((r) =>
        r
          .replace("74.20 ", "75.00 ")
          .replace("742.00", "750.00")
          .replace("1026.00", "1034.00")
          .replace("205.20", "206.80")
          .replace("1231.20", "1240.80"),
      ),
    ),
  );
  expect(must(await beside(id)).sentence?.tone).toBe("good");
  must(await saveTolerance(admin, { share: 0.001, amount: "0.50", quantityShare: 0 }));
  const strict = must(await beside(id));
  expect(strict.sentence).toEqual({ text: "GBP 8.00 more than ordered. Toner, black: 75.00 each, 74.20 was ordered", tone: "wrong" });
  must(await saveTolerance(admin, startingTolerance));
  const clerk = await actorByMail("tam.corrigall@merrowick.example");
  expect(await saveTolerance(clerk, startingTolerance)).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
});

test("an earlier invoice of the order counts, posted or only filed; the document itself never does", async () => {
  const first = await take("first.txt", table("BH-410", good));
  expect(must(await beside(first)).sentence?.tone).toBe("good");
  must(
    await fileAway(admin, first, {
      documentType: "supplierInvoice",
      clips: [{ company: "MF", type: "purchaseOrder", key: "PO-5001" }],
      properties: { documentNumber: "BH-410", documentDate: "2026-11-18", net: "1026.00", total: "1231.20" },
    }),
  );
  const again = await take("again.txt", `${table("BH-499", good)}\n `);
  const codes = (must(await beside(again)).compared as InvoiceCompared).findings.map((f) => f.code);
  expect(codes).toContain("quantity-over-order");
  const same = await take("same.txt", `${table("BH 410", good)}\n  `);
  expect((must(await beside(same)).compared as InvoiceCompared).findings[0]).toMatchObject({ code: "same-invoice" });
});

const statement = [
  "Brae & Holme Chandlery",
  "Statement",
  "Date: 31 October 2026",
  "Account: S-2010",
  "",
  "Invoice    Date          Amount",
  "BH-301     04.10.2026    214.40",
  "BH-302     09.10.2026    96.12",
  "BH-318     19.10.2026    50.00",
  "Balance                  360.52",
].join("\n");
const account = { type: "supplierAccount", key: "S-2010", documentType: "supplierStatement" };

test("a statement beside the account's invoices: on file, paid, missing; and a mail that asks for the missing one", async () => {
  const id = await take("statement.txt", statement);
  const found = must(await beside(id, account));
  expect((found.compared as StatementCompared).lines.map((l) => [l.number, l.state])).toEqual([
    ["BH-301", "on-file"],
    ["BH-302", "paid"],
    ["BH-318", "missing"],
  ]);
  expect(found.mail).toMatchObject({ to: "accounts@brae-holme.example", subject: "Copy of invoice BH-318" });
  // One that waits is not asked for.
  const waits = await take(
    "bh318.txt",
    ["Brae & Holme Chandlery", "INVOICE", "Invoice No. BH-318", "Invoice date: 19 October 2026", "Account: S-2010", "Total GBP 50.00"].join(
      "\n",
    ),
  );
  await db().execute(
    sql`update arrival_reading set sender_id = (select id from record where key = 'S-2010'), types = '[{"type": "supplierInvoice", "certainty": 0.9, "words": []}]' where arrival_id = ${waits}::uuid`,
  );
  expect((must(await beside(id, account)).compared as StatementCompared).lines[2]).toMatchObject({
    state: "waiting",
    known: { as: "arrival", at: waits },
  });
});

test("nobody is told of records or documents that they may not see", async () => {
  const id = await takeAndLook(admin, "statement.txt", Buffer.from(`${statement}\n\n`), { queue: "quay-office" });
  // The quay office sees orders and accounts, and no invoices.
  const quay = await actorByMail("odran.vane@merrowick.example");
  const found = await beside(id, account, quay);
  const said = JSON.stringify(found);
  expect(said).not.toContain("SI-1");
  expect(said).not.toContain("SI-2");
  const invoice = await takeAndLook(admin, "again.txt", Buffer.from(`${table("BH-499", good)}\n   `), { queue: "quay-office" });
  expect(JSON.stringify(await beside(invoice, {}, quay))).not.toMatch(/AC-\d/);
  const crew = await actorByMail("maren.holt@merrowick.example");
  expect(await beside(id, account, crew)).toMatchObject({ ok: false, refusal: { code: "not-found" } });
});

test("types that are not compared, and records without an order, give nothing", async () => {
  const id = await take("letter.txt", "Dear Sir");
  expect(must(await beside(id, { documentType: "letter" }))).toMatchObject({ compared: null, sentence: null });
  expect(must(await beside(id, { type: "supplierAccount", key: "S-2010" }))).toMatchObject({ compared: null });
  expect(await beside(id, { key: "PO-none" })).toMatchObject({ ok: false, refusal: { code: "not-found" } });
  expect(await loadComparison(admin, "no id", { company: "MF", type: "x", key: "y", documentType: "supplierInvoice" })).toMatchObject({
    ok: false,
  });
});
