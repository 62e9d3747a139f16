import { createHash } from "node:crypto";
import { readdir, rm } from "node:fs/promises";
import path from "node:path";
import sharp from "sharp";
import { PDFDocument } from "@cantoo/pdf-lib";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { drawPdf } from "#scenario/papers/draw-pdf.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { makeSetUpDatabase, takeText } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { picturesFolder } from "../ports/adapters.ts";
import { serveContent, servePage, serveText, serveView } from "./serve-content.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const shas = new Map<string, string>();
const bytesOf = new Map<string, Buffer>();
const take = async (name: string, bytes: Buffer | string): Promise<void> => {
  const id = await takeText(admin, name, bytes);
  shas.set(name, (await loadArrival(admin, id))?.sha256 ?? "");
  bytesOf.set(name, Buffer.from(bytes));
};
const sha = (name: string): string => shas.get(name) ?? "";
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  const paper = {
    heading: "Invoice",
    sender: { name: "A", address: "B" },
    recipient: { name: "C", address: "D" },
    date: "2026-11-01",
    references: [["Your order", "PO-6127"]],
  } as const;
  await take("paper.pdf", Buffer.from(await drawPdf(paper, 0)));
  await take(
    "picture.png",
    await sharp({ create: { width: 640, height: 320, channels: 3, background: "#336699" } })
      .png()
      .toBuffer(),
  );
  await take("page.html", "<script>alert(1)</script>");
  await take("empty.bin", "");
  const wide = await PDFDocument.create();
  wide.addPage([2000, 300]);
  wide.addPage([300, 2000]);
  await take("odd pages.pdf", Buffer.from(await wide.save()));
});
afterAll(async () => {
  await world.end();
});
const ask = (name: string, headers: Record<string, string> = {}, download = false): Promise<Response> =>
  serveContent(new Request("http://127.0.0.1:9/x", { headers }), sha(name), name, download);
const body = async (answer: Response): Promise<Buffer> => Buffer.from(await answer.arrayBuffer());

describe("Bytes", () => {
  test.each(["paper.pdf", "picture.png", "page.html"])("of %s come back unchanged, with their hash as ETag", async (name) => {
    const answer = await ask(name);
    expect(
      createHash("sha256")
        .update(await body(answer))
        .digest("hex"),
    ).toBe(sha(name));
    expect(answer.headers.get("etag")).toBe(`"${sha(name)}"`);
    expect(answer.headers.get("content-length")).toBe(String(bytesOf.get(name)?.length));
  });
  test("leave so that nothing in them runs in our origin", async () => {
    const answer = await ask("page.html");
    expect(answer.headers.get("content-security-policy")).toBe("default-src 'none'; sandbox");
    expect(answer.headers.get("x-content-type-options")).toBe("nosniff");
    expect(answer.headers.get("content-disposition")).toMatch(/^attachment/);
    expect(answer.headers.get("content-type")).not.toContain("html");
    expect((await ask("picture.png")).headers.get("content-disposition")).toMatch(/^inline/);
    expect((await ask("picture.png", {}, true)).headers.get("content-disposition")).toMatch(/^attachment/);
  });
  test("names with anything in them are written safely into the header", async () => {
    const answer = await serveContent(new Request("http://127.0.0.1:9/x"), sha("paper.pdf"), "a\"b\r\nX-Evil: 1 (ü)'.pdf", true);
    const disposition = answer.headers.get("content-disposition") ?? "";
    expect(disposition).not.toMatch(/[\r\n"]/);
    expect(disposition).toContain("%C3%BC");
    expect(answer.headers.get("x-evil")).toBeNull();
  });
  test("are asked for in part, and not again when they are known", async () => {
    const part = await ask("paper.pdf", { range: "bytes=5-9" });
    expect(part.status).toBe(206);
    expect(await body(part)).toEqual(bytesOf.get("paper.pdf")?.subarray(5, 10));
    expect(part.headers.get("content-range")).toBe(`bytes 5-9/${bytesOf.get("paper.pdf")?.length}`);
    expect((await ask("paper.pdf", { "if-none-match": `"${sha("paper.pdf")}"` })).status).toBe(304);
    expect((await ask("paper.pdf", { range: "bytes=999999999-" })).status).toBe(416);
    expect((await ask("paper.pdf", { range: "bytes=0-1", "if-range": '"another"' })).status).toBe(200);
  });
  test("of an empty file are none", async () => expect((await body(await ask("empty.bin"))).length).toBe(0));
  test("that are gone from the landing store are said to be, and nothing breaks", async () => {
    await take("gone.txt", "soon gone");
    await rm(path.join(world.dataFolder, "landing/kept", sha("gone.txt").slice(0, 2), sha("gone.txt").slice(2, 4), sha("gone.txt")));
    expect((await ask("gone.txt")).status).toBe(503);
  });
});

describe("Pages", () => {
  const page = (name: string, what: string, width = 480, headers: Record<string, string> = {}): Promise<Response> =>
    servePage(new Request("http://127.0.0.1:9/x", { headers }), sha(name), what, { width });
  test("are PNG of the very width that was wished, or JPEG", async () => {
    const png = await page("paper.pdf", "1.png", 333);
    expect((await sharp(await body(png)).metadata()).width).toBe(333);
    const jpg = await page("paper.pdf", "1.jpg", 300);
    expect((await sharp(await body(jpg)).metadata()).format).toBe("jpeg");
    const tag = jpg.headers.get("etag") ?? "";
    expect((await page("paper.pdf", "1.jpg", 300, { "if-none-match": tag })).status).toBe(304);
  });
  test("of odd shapes are drawn within bounds", async () => {
    for (const what of ["1.png", "2.png"]) expect((await page("odd pages.pdf", what, 200)).status).toBe(200);
  });
  test("have their words with boxes", async () => {
    const { words } = (await (await page("paper.pdf", "1.words")).json()) as { words: { text: string; box: number[] }[] };
    expect(words.map((w) => w.text)).toContain("PO-6127");
    expect(words.every((w) => w.box.length === 4)).toBe(true);
  });
  test("words of what has no pages stand where it is shown: a mail, a table sheet by sheet, plain text", async () => {
    const wordsOf = async (name: string, bytes: string, number: number) => {
      await take(name, bytes);
      const { words } = (await (await page(name, `${number}.words`)).json()) as { words: { text: string; box: number[] }[] };
      return words.map((w) => `${w.text} ${w.box[0]} ${w.box[1]}`);
    };
    const mail = "From: a@orrin.example\r\nTo: b@orrin.example\r\nSubject: About PO-6127\r\n\r\nGood morning\r\n";
    expect(await wordsOf("words.eml", mail, 1)).toEqual(["About 0 0", "PO-6127 36 0", "Good 0 24", "morning 30 24"]);
    expect(await wordsOf("words.csv", "Number;Total\n77-3108;120.00\n", 1)).toEqual([
      "Number 0 12",
      "Total 60 12",
      "77-3108 0 24",
      "120.00 60 24",
    ]);
    expect(await wordsOf("words.csv", "Number;Total\n77-3108;120.00\n", 2)).toEqual([]);
    expect(await wordsOf("words.txt", "soon there\n", 1)).toEqual(["soon 0 0", "there 30 0"]);
    expect(await wordsOf("words.txt", "soon there\n", 2)).toEqual([]);
  });
  test.each(["2.png", "0.png", "-1.png", "x.png", "1.gif", "1", "1.png.png", "999999999.png"])("there is no page %s", async (what) => {
    expect([404, 422]).toContain((await page("paper.pdf", what)).status);
  });
  test("two that ask for the same picture at once share the work", async () => {
    const answers = await Promise.all(Array.from({ length: 6 }, () => page("odd pages.pdf", "1.jpg", 960)));
    expect(new Set(answers.map((a) => a.status))).toEqual(new Set([200]));
  });
  test("of a long bundle the first small ones are made as it is read, before anybody asks", async () => {
    const long = await PDFDocument.create();
    for (let i = 0; i < 13; i++) long.addPage([200, 300]);
    await take("long.pdf", Buffer.from(await long.save()));
    const made = await readdir(path.join(picturesFolder(), sha("long.pdf").slice(0, 2), sha("long.pdf")));
    expect(made.filter((n) => n.endsWith("-160.jpg"))).toHaveLength(13);
  });
  test("what has no pages has no pictures", async () => expect((await page("page.html", "1.png")).status).toBe(422));
});

describe("Text and view", () => {
  test("text leaves as plain text", async () => {
    const answer = await serveText(sha("paper.pdf"));
    expect(answer.headers.get("content-type")).toBe("text/plain; charset=utf-8");
    expect(await answer.text()).toContain("PO-6127");
    expect((await serveText("0".repeat(64))).status).toBe(422);
  });
  test("the view of each kind tells what it is shown from", async () => {
    const view = async (name: string) => (await (await serveView(sha(name))).json()) as Record<string, unknown>;
    expect(await view("paper.pdf")).toMatchObject({ kind: "pdf", pictures: true, pages: [{ number: 1 }], text: null });
    expect(await view("odd pages.pdf")).toMatchObject({
      pages: [
        { width: 2000, height: 300 },
        { width: 300, height: 2000 },
      ],
    });
    expect(await view("page.html")).toMatchObject({ pictures: false, text: "<script>alert(1)</script>" });
    expect(await view("empty.bin")).toMatchObject({ state: "failed", problem: { code: "empty" } });
    expect((await serveView("0".repeat(64))).status).toBe(404);
  });
});
