import { execFile } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { promisify } from "node:util";
import { eq } from "drizzle-orm";
import { scanPages, scanPdf } from "#scenario/papers/draw-scan.ts";
import { chance } from "#scenario/random.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { type ArrivalId, parseDocumentCode } from "#core/shared/brand.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { claim } from "../arrivals/claim.ts";
import { arrival } from "../arrivals/tables.ts";
import { fileAway } from "../documents/file-away.ts";
import { loadDocument } from "../documents/load-document.ts";
import { fileWithoutSheets } from "./file-without-sheets.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { saveLabelFormats } from "../settings/load-settings.ts";
import { saveQueueIntake } from "../ways-in/queue-ways.ts";
import { printSheets, sheetsSchema } from "./print-sheets.ts";
import { sortByCodes } from "./sort-by-codes.ts";

const run = promisify(execFile);
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const booking = { type: "freightBooking", key: "B-20418", company: "MF", documentType: "packingList" };
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "customerAccount", "C-1", { title: "Skarra Fish", fields: { name: "Skarra Fish" } });
  for (const key of ["B-20418", "B-20419"])
    await putRecord(admin, "MF", "freightBooking", key, {
      title: `Fish ${key}`,
      date: "2026-11-02",
      parent: { type: "customerAccount", key: "C-1" },
    });
  must(await saveQueueIntake(admin, "quay-office", { filesByCodes: true, leavesOutBlanks: true, limits: {} }));
});
afterAll(() => world.end());

let nth = 0;
async function file(bytes: Uint8Array): Promise<string> {
  const name = path.join(world.dataFolder, `sheet-${nth++}.pdf`);
  await writeFile(name, bytes);
  return name;
}
const sheet = async (value: unknown): Promise<string> => file(must(await printSheets(admin, sheetsSchema.parse(value))));
async function together(...parts: readonly string[]): Promise<Buffer> {
  const out = path.join(world.dataFolder, `stack-${nth++}.pdf`);
  await run("qpdf", ["--empty", "--pages", ...parts, "--", out]);
  return readFile(out);
}
const partsOf = (id: ArrivalId) => db().select().from(arrival).where(eq(arrival.parentId, id)).orderBy(arrival.part);

describe("A stack with cover sheets", () => {
  test("is taken apart and filed by what its sheets say, where the queue allows it; the sheets are left out; twice is once", async () => {
    const papers = await file(await makePaper(`before ${nth}`, "list one", "list one overleaf", "list two"));
    const [one, two] = [
      await sheet({ kind: "coverSheet", items: [booking] }),
      await sheet({ kind: "coverSheet", items: [{ ...booking, key: "B-20419" }] }),
    ];
    const stack = await together(papers, "1", one, "1", papers, "2-3", two, "1", papers, "4");
    const id = await takeAndLook(admin, "stack.pdf", stack, { queue: "quay-office" });
    await sortByCodes(id);
    await sortByCodes(id);
    const parts = await partsOf(id);
    expect(parts.map((p) => [p.state, p.fileName])).toEqual([
      ["ready", "stack, page 1.pdf"],
      ["filed", "stack, pages 3–4.pdf"],
      ["filed", "stack, page 6.pdf"],
    ]);
    expect(await loadArrival(admin, id)).toMatchObject({ state: "split", endReason: "3 documents, without pages 2, 5" });
    expect((await loadArrival(admin, parts[1]?.id as ArrivalId))?.documentPath).toContain("B-20418");
  });
  test("elsewhere it waits for the bench; one document with its sheet gets the record that the sheet names", async () => {
    const papers = await file(await makePaper(`for the desk ${nth}`));
    const cover = await sheet({ kind: "coverSheet", items: [booking] });
    const id = await takeAndLook(admin, "one.pdf", await together(cover, "1", papers, "1"), { queue: "payables" });
    await sortByCodes(id);
    expect(await loadArrival(admin, id)).toMatchObject({ state: "ready", tied: { key: "B-20418" }, proposedType: { type: "packingList" } });
    expect(await partsOf(id)).toEqual([]);
  });
  test("a label files the page it stands on; a code of the business system only says the record where its type is not set", async () => {
    const label = await sheet({ kind: "label", items: [booking] });
    const id = await takeAndLook(admin, "labelled.pdf", await readFile(label), { queue: "quay-office" });
    await sortByCodes(id);
    expect(await loadArrival(admin, id)).toMatchObject({ state: "filed", children: [] });
    must(
      await saveLabelFormats(admin, [
        { pattern: String.raw`^B-\d{5}$`, recordType: "freightBooking", company: null, documentType: null, begins: true },
      ]),
    );
  });
  test("somebody else's filing or setting aside meanwhile is left alone, and rights that are gone are not lent", async () => {
    const cover = await sheet({ kind: "coverSheet", items: [booking] });
    const papers = await file(await makePaper(`late ${nth}`));
    const id = await takeAndLook(admin, "late.pdf", await together(cover, "1", papers, "1"), { queue: "quay-office" });
    await db().update(arrival).set({ state: "setAside" }).where(eq(arrival.id, id));
    await sortByCodes(id);
    expect((await loadArrival(admin, id))?.state).toBe("setAside");
    await sortByCodes("not an id");
  });
});

test("the blank backs of a scan are left out as it comes in, where the queue says so; the original stays", async () => {
  const blank = await file(await (await import("@cantoo/pdf-lib")).PDFDocument.create().then((p) => (p.addPage([595, 842]), p.save())));
  const front = await file(await makePaper("a front with words"));
  const pages = [...(await scanPages(await readFile(front), chance(3), 1)), ...(await scanPages(await readFile(blank), chance(4), 1))];
  const id = await takeAndLook(admin, "both sides.pdf", await scanPdf(pages, "2026-11-18"), { queue: "quay-office" });
  await sortByCodes(id);
  expect(await loadArrival(admin, id)).toMatchObject({ state: "split", endReason: "1 document, without page 2" });
  expect((await partsOf(id)).map((p) => p.state)).toEqual(["ready"]);
});

describe("Filing what lies behind a cover sheet", () => {
  const filing = { documentType: "packingList", clips: [{ type: "freightBooking", key: "B-20418", company: "MF" }] };
  const stackIn = async (queue: string): Promise<ArrivalId> => {
    const papers = await file(await makePaper(`behind ${nth}`, "list", "list overleaf"));
    return takeAndLook(admin, "stack.pdf", await together(await sheet({ kind: "coverSheet", items: [booking] }), "1", papers, "1-2"), {
      queue,
    });
  };
  test("files the pages without the sheet, twice is once; the original stays in the register as split", async () => {
    const id = await stackIn("general");
    const act = () => fileWithoutSheets(admin, id, (pages) => fileAway(admin, pages, filing, { mayBeRepeat: true }));
    const filed = must(await act());
    expect(must(await act()).code).toBe(filed.code);
    const code = parseDocumentCode(filed.code);
    expect(code && (await loadDocument(admin, code))?.pages).toBe(2);
    expect(await loadArrival(admin, id)).toMatchObject({ state: "split" });
    expect(await partsOf(id)).toHaveLength(1);
  });
  test("puts the arrival back as it was when filing is refused", async () => {
    const id = await stackIn("general");
    const wrong = { ...filing, clips: [{ type: "freightBooking", key: "B-0", company: "MF" }] };
    expect(await fileWithoutSheets(admin, id, (pages) => fileAway(admin, pages, wrong))).toMatchObject({
      refusal: { code: "unknown-record" },
    });
    expect(await loadArrival(admin, id)).toMatchObject({ state: "ready", pages: 3 });
    must(await fileWithoutSheets(admin, id, (pages) => fileAway(admin, pages, filing)));
  });
  test("a stack in a queue that files by codes files itself although somebody has it open", async () => {
    const id = await stackIn("quay-office");
    must(await claim(await actorByMail("tam.corrigall@merrowick.example"), id, false));
    await sortByCodes(id);
    expect((await partsOf(id)).map((p) => p.state)).toEqual(["filed"]);
  });
});
