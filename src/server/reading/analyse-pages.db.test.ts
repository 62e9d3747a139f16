import { PDFDocument } from "@cantoo/pdf-lib";
import { eq, sql } from "drizzle-orm";
import sharp from "sharp";
import { parseOwnCode, writeOwnCode } from "#core/codes/own-code.ts";
import { isBlank } from "#core/pages/measure-page.ts";
import { textOfWords } from "#core/pages/page-text.ts";
import { type ArrivalId, parseSha256 } from "#core/shared/brand.ts";
import { drawPdf } from "#scenario/papers/draw-pdf.ts";
import { scanPages, scanPdf } from "#scenario/papers/draw-scan.ts";
import { chance } from "#scenario/random.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { finishAnalysed } from "../arrivals/finish-reading.ts";
import { drawCode } from "../codes/draw-code.ts";
import { db } from "../db/connect.ts";
import { lookAt, makeSetUpDatabase, takeAndLook, takeText } from "../db/test-world.ts";
import { content } from "../documents/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { giveUpAnalysis, analysePages, stopAnalysis } from "./analyse-pages.ts";
import { loadView } from "./load-view.ts";
import { loadPages, type PageRow } from "./page-rows.ts";
import { parsePgm } from "./page-raster.ts";
import { parseTsv } from "./read-words.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let scan: Buffer;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  scan = (await scanPages(await drawPdf(paper("77-3108"), 0), chance(5), 1))[0] ?? Buffer.alloc(0);
});
afterAll(() => world.end());

const paper = (number: string) => ({
  heading: "Invoice",
  sender: { name: "Tarrin Marine Fuels", address: "Port Halven" },
  recipient: { name: "Merrowick Ferries Ltd", address: "Harbour House" },
  number,
  date: "2026-11-18",
  references: [["Your order", "PO-6127"]] as const,
  lines: [{ text: "Marine gas oil", quantity: 6400, unit: "l", price: 71.2 }],
  money: { net: "4556.80", tax: "911.36", total: "5468.16", currency: "GBP" },
});
const hashOf = async (id: ArrivalId) => parseSha256((await loadArrival(admin, id))?.sha256 ?? "");
const pagesOf = async (id: ArrivalId): Promise<readonly PageRow[]> => loadPages(db(), await hashOf(id));
const textOf = async (id: ArrivalId): Promise<string> => (await pagesOf(id)).map((p) => textOfWords(p.words)).join("\n");

describe("Words off a picture", () => {
  test("a scanned invoice has its words with boxes where they stand, and is ready only then", async () => {
    const id = await takeText(admin, "scan.pdf", await scanPdf([scan], "2026-11-18"));
    expect((await loadArrival(admin, id))?.state).toBe("reading");
    await lookAt(id);
    expect((await loadArrival(admin, id))?.state).toBe("ready");
    const page = (await pagesOf(id))[0];
    expect(page?.wordsFrom).toBe("picture");
    const text = textOfWords(page?.words ?? []);
    expect(text).toContain("PO-6127");
    expect(text).toContain("5,468.16");
    const order = page?.words.find((w) => w.text.includes("PO-6127"));
    // As the same word of the document it was scanned from, within three millimetres.
    const original = await takeAndLook(admin, "plain.pdf", await drawPdf(paper("77-3108"), 0));
    const there = (await pagesOf(original))[0]?.words.find((w) => w.text.includes("PO-6127"));
    expect(Math.abs((order?.box[0] ?? 0) - (there?.box[0] ?? 99))).toBeLessThan(12);
    expect(Math.abs((order?.box[1] ?? 0) - (there?.box[1] ?? 99))).toBeLessThan(12);
    const row = (
      await db()
        .select({ body: content.body, looked: content.looked })
        .from(content)
        .where(eq(content.sha256, await hashOf(id)))
    )[0];
    expect(row?.body).toContain("PO-6127");
    expect(row?.looked).toBe("yes");
  });
  test.each([
    ["on its left side", 90, 270],
    ["upside down", 180, 180],
    ["on its right side", 270, 90],
  ])("a page %s is read all the same; the turn it needs is kept, and its boxes stay on the page", async (_how, degrees, turn) => {
    const id = await takeAndLook(
      admin,
      `turned-${degrees}.jpg`,
      await sharp(scan).rotate(degrees).withMetadata({ density: 200 }).jpeg().toBuffer(),
    );
    const page = (await pagesOf(id))[0];
    expect(page?.turn).toBe(turn);
    expect(textOfWords(page?.words ?? [])).toContain("PO-6127");
    for (const word of page?.words ?? []) {
      expect(word.box[0]).toBeGreaterThanOrEqual(-2);
      expect(word.box[1]).toBeGreaterThanOrEqual(-2);
      expect(word.box[0] + word.box[2]).toBeLessThanOrEqual((page?.widthPoints ?? 0) + 2);
      expect(word.box[1] + word.box[3]).toBeLessThanOrEqual((page?.heightPoints ?? 0) + 2);
    }
  });
  test("a slanted page is straightened before it is read, and the slant is kept", async () => {
    const slanted = await sharp(scan).rotate(3.5, { background: "#ffffff" }).withMetadata({ density: 200 }).jpeg().toBuffer();
    const id = await takeAndLook(admin, "slanted.jpg", slanted);
    expect(await textOf(id)).toContain("PO-6127");
    expect((await pagesOf(id))[0]?.slant ?? 0).toBeGreaterThan(2.5);
  });
  test("only pages without a usable text layer are read off their picture", async () => {
    const pdf = await PDFDocument.load(await drawPdf(paper("12"), 1));
    const other = await PDFDocument.load(await scanPdf([scan], "2026-11-18"));
    const [page] = await pdf.copyPages(other, [0]);
    if (page) pdf.addPage(page);
    const id = await takeAndLook(admin, "mixed.pdf", await pdf.save());
    expect((await pagesOf(id)).map((p) => p.wordsFrom)).toEqual(["layer", "picture"]);
  });
  test("a blank back is told from a page with one line", async () => {
    const pdf = await PDFDocument.create();
    pdf.addPage([595, 842]);
    pdf.addPage([595, 842]).drawText("See overleaf", { x: 60, y: 700, size: 11 });
    const id = await takeAndLook(admin, "blank.pdf", await pdf.save());
    expect((await pagesOf(id)).map((p) => isBlank({ ink: p.ink, words: p.words.length }))).toEqual([true, false]);
  });
  test("one that somebody stopped is ready with what is known, and can be read again", async () => {
    const id = await takeText(admin, "stopped.pdf", await scanPdf([scan, scan], "2026-11-17"));
    const sha256 = await hashOf(id);
    expect(await stopAnalysis(sha256)).toBe(true);
    expect(await stopAnalysis(sha256)).toBe(false);
    await finishAnalysed(sha256);
    expect(await loadArrival(admin, id)).toMatchObject({ state: "ready" });
    await analysePages(sha256);
    expect((await pagesOf(id)).map((p) => p.wordsFrom)).toEqual(["none", "none"]);
    expect((await loadView(sha256))?.pages.map((p) => p.words)).toEqual(["none", "none"]);
  });
  test("one that was begun goes on with the pages that are left", async () => {
    const id = await takeText(admin, "halfway.pdf", await scanPdf([scan, scan], "2026-11-16"));
    const sha256 = await hashOf(id);
    await db().execute(
      sql`update content_page set ink = 0.5, words_from = 'picture', words = '[["kept",1,1,1,1]]' where sha256 = ${sha256} and number = 1`,
    );
    await db().execute(sql`update content set looked = 'going' where sha256 = ${sha256}`);
    expect((await loadView(sha256))?.pages.map((p) => p.words)).toEqual(["picture", "coming"]);
    await lookAt(id);
    const pages = await pagesOf(id);
    expect(textOfWords(pages[0]?.words ?? [])).toBe("kept");
    expect(textOfWords(pages[1]?.words ?? [])).toContain("PO-6127");
  });
  test("when looking was tried in vain, what the text layers say stands", async () => {
    const id = await takeText(admin, "vain.pdf", await scanPdf([scan], "2026-11-15"));
    await giveUpAnalysis(await hashOf(id));
    await finishAnalysed(await hashOf(id));
    expect(await loadArrival(admin, id)).toMatchObject({ state: "ready" });
  });
  test("lines of its table that are none are passed over", () => {
    const row = (sure: string, text: string): string => `5\t1\t1\t1\t1\t1\t10\t20\t30\t8\t${sure}\t${text}`;
    expect(parseTsv([row("96", "Hello"), row("-1", "line"), row("x", "odd"), "5\tx", "4\t1", row("90", " ")].join("\n"))).toEqual([
      { text: "Hello", box: [10, 20, 30, 8], sure: 96 },
    ]);
    expect(parsePgm(Buffer.from("P5 3 3 255\nab"))).toBeNull();
    expect(parsePgm(Buffer.from("nothing"))).toBeNull();
  });
});

describe("Barcodes", () => {
  const text = writeOwnCode({ kind: "coverSheet", number: 4711 });
  /** A page with a QR code and a Code 128, as it comes off a scanner: faint, grainy, turned. */
  async function sheet(turn: number, faint: boolean): Promise<Buffer> {
    const [qr, bars] = [Buffer.from(await drawCode("qrcode", text)), Buffer.from(await drawCode("code128", "B-20418"))];
    const flat = await sharp({ create: { width: 1654, height: 2339, channels: 3, background: "#ffffff" } })
      .composite([
        { input: qr, left: 200, top: 260 },
        { input: bars, left: 700, top: 320 },
      ])
      .png()
      .toBuffer();
    const page = await sharp(flat)
      .rotate(turn, { background: "#f4f2ec" })
      .linear(faint ? 0.35 : 1, faint ? 140 : 0)
      .withMetadata({ density: 200 })
      .jpeg({ quality: 60 })
      .toBuffer();
    return page;
  }
  test.each([
    [0, false],
    [2, true],
    [90, false],
    [181, true],
    [8, false],
  ])("are read at 200 dots an inch, turned by %s degrees, faint: %s", async (turn, faint) => {
    const id = await takeAndLook(admin, `codes-${turn}.jpg`, await sheet(turn, faint));
    const page = (await pagesOf(id))[0];
    expect(page?.codes.map((c) => c.text).sort()).toEqual(["B-20418", text]);
    // There is nothing but codes on it: no words are looked for. Of bars that stand far off the level less is known than they cover.
    if (turn !== 8) expect(page?.wordsFrom).toBe("none");
    expect(parseOwnCode(page?.codes.find((c) => c.format === "QRCode")?.text ?? "")).toEqual({ kind: "coverSheet", number: 4711 });
    for (const code of page?.codes ?? []) expect(code.box[0] + code.box[2]).toBeLessThanOrEqual((page?.widthPoints ?? 0) + 1);
    expect((await loadArrival(admin, id))?.barcodes).toHaveLength(2);
  });
});
