import { Readable } from "node:stream";
import { eq, sql } from "drizzle-orm";
import { type DocumentCode, parseDocumentCode, parseSha256 } from "#core/shared/brand.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { finishAnalysed } from "../arrivals/finish-reading.ts";
import { landFile, takeIn } from "../arrivals/receive.ts";
import { readArrival } from "../arrivals/read-arrival.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import { arrival } from "../arrivals/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { changeDocument } from "./change-document.ts";
import { fileAway } from "./file-away.ts";
import { fillAfterReading } from "./fill-after-reading.ts";
import { loadDocument } from "./load-document.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const clip = (key: string) => ({ type: "purchaseOrder", key, company: "MF" });
const code = (text: string): DocumentCode => {
  const parsed = parseDocumentCode(text);
  if (!parsed) throw new Error("no code");
  return parsed;
};
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  for (const key of ["PO-1", "PO-2"])
    await putRecord(admin, "MF", "purchaseOrder", key, { title: `Order ${key}`, fields: { orderDate: "2026-11-14" } });
});
afterAll(() => world.end());
const fileLetter = (name: string, title?: string) =>
  fileText(admin, `${name}.txt`, name, { documentType: "other", clips: [clip("PO-1")], properties: {}, ...(title ? { title } : {}) });

describe("A document that moves to another record", () => {
  test("gets the title and file name that its type's pattern gives there; a dry run says both first", async () => {
    // A type whose pattern names the record.
    await db().execute(
      sql`update document_type set definition = jsonb_set(definition, '{titlePattern}', '"{documentType} {record.key}"') where key = 'other'`,
    );
    const filed = await fileLetter("follows");
    const would = must(await changeDocument(admin, code(filed.code), { clips: [clip("PO-2")], dryRun: true }));
    expect(would.title).toContain("PO-2");
    expect(would.move?.to).toMatch(/PO-2\/.*PO-2/);
    expect((await loadDocument(admin, code(filed.code)))?.title).toContain("PO-1");
    const done = must(await changeDocument(admin, code(filed.code), { clips: [clip("PO-2")], dryRun: false }));
    expect(done).toMatchObject({ title: would.title, move: { to: would.move?.to } });
    expect(await loadDocument(admin, code(filed.code))).toMatchObject({ title: would.title, titleSaid: false });
  });
  test("keeps a title that a person wrote, when it was filed or later; without one it follows again", async () => {
    const written = await fileLetter("written", "Letter of the harbour master");
    must(await changeDocument(admin, code(written.code), { clips: [clip("PO-2")], dryRun: false }));
    expect(await loadDocument(admin, code(written.code))).toMatchObject({ title: "Letter of the harbour master", titleSaid: true });
    const later = await fileLetter("later");
    must(await changeDocument(admin, code(later.code), { title: "By hand", dryRun: false }));
    must(await changeDocument(admin, code(later.code), { clips: [clip("PO-2")], dryRun: false }));
    expect((await loadDocument(admin, code(later.code)))?.title).toBe("By hand");
    must(await changeDocument(admin, code(later.code), { title: null, dryRun: false }));
    expect(await loadDocument(admin, code(later.code))).toMatchObject({ titleSaid: false });
    expect((await loadDocument(admin, code(later.code)))?.title).toContain("PO-2");
  });
  test("filed before titles were told apart is compared with its pattern", async () => {
    const [plain, written] = [await fileLetter("old plain"), await fileLetter("old written", "Old title")];
    await db().execute(sql`update document set title_said = null`);
    for (const filed of [plain, written]) must(await changeDocument(admin, code(filed.code), { clips: [clip("PO-2")], dryRun: false }));
    expect((await loadDocument(admin, code(plain.code)))?.title).toContain("PO-2");
    expect((await loadDocument(admin, code(written.code)))?.title).toBe("Old title");
  });
});

describe("A document that was filed before it was read", () => {
  const invoice = "Tarrin Marine Fuels\nINVOICE\nInvoice number: 88-4711\nInvoice date: 18 November 2026\nTotal due: GBP 5,835.00\n";
  const fileUnread = async (name: string, properties: Record<string, unknown> = {}) => {
    const landed = must(await landFile(Readable.from([Buffer.from(`${invoice}${name}`)])));
    const { id } = must(await takeIn(admin, landed, { fileName: name, queue: "payables", source: "drop", company: "MF" }));
    const filed = must(await fileAway(admin, id, { documentType: "supplierInvoice", clips: [clip("PO-1")], properties }));
    await readArrival(id);
    const row = (await db().select().from(arrival).where(eq(arrival.id, id)))[0];
    await finishAnalysed(parseSha256(row?.sha256 ?? ""));
    return filed;
  };
  const idOf = async (of: string) => (await loadDocument(admin, code(of)))?.id ?? 0;
  test("has its empty properties filled from what its page says, and no others", async () => {
    const filed = await fileUnread("a.txt", { total: "1.00" });
    const { rows } = await db().execute(sql`select from graphile_worker.jobs where key = ${`fillProperties:${await idOf(filed.code)}`}`);
    expect(rows).toHaveLength(1);
    expect(await fillAfterReading(await idOf(filed.code))).toBe(true);
    const found = await loadDocument(admin, code(filed.code));
    expect(found?.properties).toMatchObject({ documentNumber: "88-4711", documentDate: "2026-11-18", total: "1.00" });
    expect(found?.title).toContain("88-4711");
    // Safe to repeat.
    expect(await fillAfterReading(await idOf(filed.code))).toBe(false);
  });
  test("is left alone when somebody has changed it since", async () => {
    const filed = await fileUnread("b.txt");
    must(await changeDocument(admin, code(filed.code), { title: "Mine", dryRun: false }));
    expect(await fillAfterReading(await idOf(filed.code))).toBe(false);
    expect((await loadDocument(admin, code(filed.code)))?.title).toBe("Mine");
  });
});
