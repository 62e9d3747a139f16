import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { pilesSchema, suggestPiles } from "./suggest-piles.ts";
import { splitArrival } from "./take-apart.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let light: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  [admin, light] = (await Promise.all(["isla.rowe", "pell.ashby"].map((n) => actorByMail(`${n}@merrowick.example`)))) as [Actor, Actor];
  await putRecord(admin, "MF", "supplierAccount", "S-2004", { title: "Tarrin Marine Fuels", fields: { name: "Tarrin Marine Fuels" } });
  for (const key of ["PO-6127", "PO-6128"])
    await putRecord(admin, "MF", "purchaseOrder", key, {
      title: "Fuel",
      date: "2026-11-02",
      parent: { type: "supplierAccount", key: "S-2004" },
    });
});
afterAll(() => world.end());

const invoice = (number: string, order: string): string =>
  [
    "Tarrin Marine Fuels",
    "INVOICE",
    `Invoice number: ${number}`,
    "Invoice date: 18 November 2026",
    `Your order: ${order}`,
    "Total due: GBP 5,835.00",
  ].join("\n");
const bundle = async (name: string) =>
  takeAndLook(admin, name, await makePaper(invoice("77-1", "PO-6127"), invoice("77-2", "PO-6128")), { queue: "payables", company: "MF" });
const pile = (...pages: readonly number[]) => ({ pages: pages.map((page) => ({ source: 0, page })) });

describe("Piles on the bench", () => {
  test("are read and matched before they are cut, each by its own pages", async () => {
    const arrival = await bundle("two.pdf");
    const { piles } = must(await suggestPiles(admin, pilesSchema.parse({ sources: [{ arrival }], piles: [pile(1), pile(2)] })));
    expect(
      piles.map((p) => [p?.proposedType?.type, p?.suggestions[0]?.key, p?.readings.find((r) => r.field === "documentNumber")?.value]),
    ).toEqual([
      ["supplierInvoice", "PO-6127", "77-1"],
      ["supplierInvoice", "PO-6128", "77-2"],
    ]);
  });
  test("that hold a page that is not read yet have no answer; those of an arrival one may not see are not found", async () => {
    const arrival = await bundle("unread.pdf");
    await db().execute(
      sql`update content_page set words_from = null where number = 2 and sha256 = (select sha256 from arrival where id = ${arrival})`,
    );
    const asked = pilesSchema.parse({ sources: [{ arrival }], piles: [pile(1), pile(2)] });
    expect(must(await suggestPiles(admin, asked)).piles.map((p) => p === null)).toEqual([false, true]);
    expect(await suggestPiles(light, asked)).toMatchObject({ refusal: { code: "not-found" } });
  });
  test("that are cut have their records found at once: a job for each stands in the same transaction", async () => {
    const id = await bundle("cut.pdf");
    const made = must(await splitArrival(admin, id, [{ pages: [1] }, { pages: [2] }]));
    const { rows } = await db().execute<{ key: string }>(sql`select key from graphile_worker.jobs where task_identifier = 'suggest'`);
    for (const part of made.parts) expect(rows.map((r) => r.key)).toContain(`suggest:${part.id}`);
  });
});
