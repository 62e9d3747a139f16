import { execFile } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { promisify } from "node:util";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { loadBench } from "../bench/load-bench.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { saveLabelFormats } from "../settings/load-settings.ts";
import { printSheets, sheetsSchema } from "./print-sheets.ts";
import { resolveCodes } from "./resolve-codes.ts";

const run = promisify(execFile);
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let light: Actor;
const order = { type: "purchaseOrder", key: "PO-6127", company: "MF" };
beforeAll(async () => {
  world = await makeSetUpDatabase();
  [admin, clerk, light] = (await Promise.all(
    ["isla.rowe", "tam.corrigall", "pell.ashby"].map((n) => actorByMail(`${n}@merrowick.example`)),
  )) as [Actor, Actor, Actor];
  await putRecord(admin, "MF", "purchaseOrder", "PO-6127", { title: "Fuel", date: "2026-11-02" });
  await putRecord(admin, "MF", "freightBooking", "B-20418", { title: "Fish to Halven" });
});
afterAll(() => world.end());

let nth = 0;
const textOf = async (file: string): Promise<string> => (await run("pdftotext", ["-layout", file, "-"])).stdout;

describe("Cover sheets, labels and separators", () => {
  const sheets = (value: unknown) => sheetsSchema.parse(value);
  async function printed(value: unknown): Promise<string> {
    const file = path.join(world.dataFolder, `sheets-${nth++}.pdf`);
    await writeFile(file, must(await printSheets(admin, sheets(value))));
    return file;
  }
  test("a printed cover sheet, scanned with pages behind it, says where the documents fall apart and what they are", async () => {
    const cover = await printed({ kind: "coverSheet", items: [{ ...order, documentType: "supplierInvoice" }] });
    const separator = await printed({ kind: "separator" });
    const papers = path.join(world.dataFolder, "papers.pdf");
    await writeFile(papers, await makePaper("Something before", "The invoice", "The rest"));
    const stack = path.join(world.dataFolder, "stack.pdf");
    await run("qpdf", ["--empty", "--pages", papers, "1", cover, "1", papers, "2", separator, "1", papers, "3", "--", stack]);
    const id = await takeAndLook(admin, "stack.pdf", await readFile(stack), { queue: "payables" });
    const bench = must(await loadBench(clerk, [{ arrival: id }]));
    expect(bench.cuts.map((c) => c.afterPage)).toEqual([1, 3]);
    expect(bench.codes).toMatchObject([
      { page: 2, sort: "coverSheet", leftOut: true, record: { key: "PO-6127" }, documentType: "supplierInvoice" },
      { page: 4, sort: "separator", leftOut: true, record: null },
    ]);
    expect((await loadArrival(admin, id))?.proposedCuts.map((c) => c.afterPage)).toEqual([1, 3]);
  });
  test("the same record and type has the same code for good; labels fill a sheet from where it is free", async () => {
    const twice = await Promise.all([
      printed({ kind: "label", items: [order, order] }),
      printed({ kind: "label", items: [order], used: 23 }),
    ]);
    const texts = await Promise.all(twice.map(textOf));
    const codes = texts.map((t) => t.match(/LB-[0-9A-Z*]{7}/g) ?? []);
    expect(new Set(codes.flat()).size).toBe(1);
    const said = await resolveCodes(db(), [codes[0]?.[0] ?? ""], [], null);
    expect([...said.values()][0]).toMatchObject({ sort: "label", record: { key: "PO-6127" }, documentType: null });
    expect((await run("pdfinfo", [twice[1] ?? ""])).stdout).toMatch(/Pages:\s+1/);
  });
  test("a number is whole on whatever is printed, whatever else has no room", async () => {
    const keys = ["B-20372", "B-2026-0041709"];
    for (const key of keys)
      await putRecord(admin, "MF", "freightBooking", key, { title: "Fulmar Timber, 15 chilled trailers to the Isle of Tarrin" });
    const items = keys.map((key) => ({ company: "MF", type: "freightBooking", key, documentType: null }));
    const label = await textOf(await printed({ kind: "label", items }));
    for (const key of keys) expect(label).toContain(key);
    expect(label).toContain("Freight booking B-20372");
    const cover = await textOf(await printed({ kind: "coverSheet", items }));
    for (const key of keys) expect(cover).toContain(`Freight booking ${key}`);
    expect(cover).toContain("The sheet itself is not filed.");
    expect(cover).not.toContain("…");
  });
  test("what one may not see cannot be printed, and what is not there neither", async () => {
    expect(await printSheets(light, sheets({ kind: "label", items: [order] }))).toMatchObject({ ok: false });
    expect(await printSheets(admin, sheets({ kind: "coverSheet", items: [{ ...order, key: "PO-0" }] }))).toMatchObject({
      refusal: { code: "unknown-record" },
    });
    expect(await printSheets(admin, sheets({ kind: "coverSheet", items: [{ ...order, documentType: "none" }] }))).toMatchObject({
      refusal: { code: "unknown-type" },
    });
    expect(await printSheets(admin, sheets({ kind: "coverSheet" }))).toMatchObject({ refusal: { code: "bad-input" } });
  });
  test("a barcode of the business system names its record by the format set for it", async () => {
    const format = {
      pattern: String.raw`^B-\d{5}$`,
      recordType: "freightBooking",
      company: null,
      documentType: "packingList",
      begins: true,
    };
    expect(await saveLabelFormats(clerk, [format])).toMatchObject({ refusal: { code: "not-allowed" } });
    expect(await saveLabelFormats(admin, [{ ...format, pattern: "(a+)+" }])).toMatchObject({ refusal: { code: "bad-input" } });
    must(await saveLabelFormats(admin, [format]));
    const said = await resolveCodes(db(), ["B-20418", "B-99999", "4006381333931"], [format], "MF");
    expect(said.get("B-20418")).toMatchObject({ sort: "ofTheBusinessSystem", record: { key: "B-20418" }, documentType: "packingList" });
    expect(said.get("B-99999")?.record).toBeNull();
    expect(said.has("4006381333931")).toBe(false);
  });
});
