import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { PDFDocument } from "@cantoo/pdf-lib";
import sharp from "sharp";
import type { ContentKind } from "#core/arrivals/limits.ts";
import { badFiles } from "#scenario/papers/bad-files.ts";
import { drawPdf, LAYOUTS } from "#scenario/papers/draw-pdf.ts";
import { writeDocx, writeMail, writeXlsx } from "#scenario/papers/write-files.ts";
import { decodeText, detectKind } from "./detect-kind.ts";
import { readMail } from "./read-mail.ts";
import { readOffice } from "./read-office.ts";
import type { Reader } from "./read-outcome.ts";
import { parseBbox, readPdf } from "./read-pdf.ts";
import { readPicture } from "./read-picture.ts";
import { wordsOf } from "./page-rows.ts";
import { csvSheet, readCsv, readText } from "./read-plain.ts";

let folder = "";
beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), "amber-reading-"));
});
afterAll(async () => {
  await rm(folder, { recursive: true, force: true });
});
const put = async (name: string, bytes: Uint8Array | string): Promise<string> => {
  const file = path.join(folder, name);
  await writeFile(file, bytes);
  return file;
};
const options = (fileName: string, kind: ContentKind, pagesMax = 50) => ({ fileName, kind, pagesMax });
const paper = {
  heading: "Invoice",
  sender: { name: "Tarrin Marine Fuels", address: "Port Halven" },
  recipient: { name: "Merrowick Ferries Ltd", address: "Harbour House" },
  number: "77-3108",
  date: "2026-11-18",
  references: [["Your order", "PO-6127"]],
  lines: [{ text: "Marine gas oil", quantity: 6400, unit: "l", price: 71.2 }],
  money: { net: "4556.80", tax: "911.36", total: "5468.16", currency: "GBP" },
} as const;

describe("A PDF", () => {
  test.each(Array.from({ length: LAYOUTS }, (_, i) => i))("of layout %i gives its words with boxes inside the page", async (layout) => {
    const outcome = await readPdf(await put(`l${layout}.pdf`, await drawPdf(paper, layout)), options("l.pdf", "pdf"));
    expect(outcome.problem).toBeNull();
    expect(outcome.pages).toBe(1);
    expect(outcome.body).toContain("PO-6127");
    expect(outcome.body).toContain("5,468.16");
    const page = outcome.pageTexts[0];
    expect(page?.words.length).toBeGreaterThan(15);
    for (const word of page?.words ?? []) {
      expect(word.box[0]).toBeGreaterThanOrEqual(0);
      expect(word.box[0] + word.box[2]).toBeLessThanOrEqual((page?.widthPoints ?? 0) + 1);
    }
  });
  test("locked with a password says so", async () => {
    const pdf = await PDFDocument.load(await drawPdf(paper, 0));
    pdf.encrypt({ userPassword: "x", ownerPassword: "y" });
    expect((await readPdf(await put("locked.pdf", await pdf.save()), options("locked.pdf", "pdf"))).problem?.code).toBe("locked");
  });
  test("cut off says so, or is saved as far as it goes; it never throws", async () => {
    const whole = await drawPdf(paper, 0);
    for (const share of [0.1, 0.5, 0.9]) {
      const outcome = await readPdf(await put("cut.pdf", whole.slice(0, whole.length * share)), options("cut.pdf", "pdf"));
      expect(outcome.problem?.code ?? "saved").toMatch(/broken|saved/);
    }
  });
  test("with more pages than allowed says how many", async () => {
    const pdf = await PDFDocument.create();
    for (let i = 0; i < 12; i++) pdf.addPage();
    expect((await readPdf(await put("long.pdf", await pdf.save()), options("long.pdf", "pdf", 10))).problem).toEqual({
      code: "too-many-pages",
      detail: "12 pages, at most 10",
    });
  });
  test("the word list is read forgivingly", () => {
    const pages = parseBbox(
      '<page width="595.3" height="842">\n<word xMin="1" yMin="2" xMax="11" yMax="12">A &amp; B &#233;</word>\n<word xMin="x" yMin="2">bad</word>\n</page>\n<page width="100" height="200">',
    );
    expect(pages).toEqual([
      { number: 1, widthPoints: 595.3, heightPoints: 842, words: [{ text: "A & B é", box: [1, 2, 10, 10] }] },
      { number: 2, widthPoints: 100, heightPoints: 200, words: [] },
    ]);
  });
});

describe("A picture", () => {
  test("turned by its camera's mark has its size as displayed", async () => {
    const bytes = await sharp({ create: { width: 300, height: 200, channels: 3, background: "white" } })
      .withMetadata({ orientation: 6, density: 100 })
      .jpeg()
      .toBuffer();
    const outcome = await readPicture(await put("turned.jpg", bytes), options("turned.jpg", "jpeg"));
    expect(outcome.pageTexts).toEqual([{ number: 1, widthPoints: 144, heightPoints: 216, words: [] }]);
  });
  test("that is damaged says so", async () => {
    const bytes = await sharp({ create: { width: 900, height: 900, channels: 3, background: { r: 9, g: 99, b: 200 } } })
      .png()
      .toBuffer();
    expect((await readPicture(await put("cut.png", bytes.subarray(0, 200)), options("cut.png", "png"))).problem?.code).toBe("broken");
  });
});

describe("Office files, tables and text", () => {
  test("a Word document gives its text", async () => {
    const outcome = await readOffice(
      await put("a.docx", await writeDocx(["Contract of employment", "Rank: Bosun"])),
      options("a.docx", "docx"),
    );
    expect(outcome.body).toContain("Rank: Bosun");
  });
  test("a workbook gives its cells", async () => {
    const outcome = await readOffice(
      await put(
        "a.xlsx",
        await writeXlsx("Sheet", [
          ["Booking", "B-20418"],
          ["kg", 540],
        ]),
      ),
      options("a.xlsx", "xlsx"),
    );
    expect(outcome.outline).toMatchObject({
      kind: "table",
      sheets: [
        {
          name: "Sheet",
          rows: [
            ["Booking", "B-20418"],
            ["kg", "540"],
          ],
        },
      ],
    });
  });
  test("a CSV is taken apart by whichever separator it uses", () => {
    expect(csvSheet("a;b;c\n1;2;3").rows).toEqual([
      ["a", "b", "c"],
      ["1", "2", "3"],
    ]);
    expect(csvSheet('a,b\n"x, y",2').rows[1]).toEqual(["x, y", "2"]);
    expect(csvSheet("a\tb\n1\t2").rows[1]).toEqual(["1", "2"]);
  });
  test("text in older sets is read", () => {
    expect(decodeText(Buffer.from([0x63, 0x61, 0x66, 0xe9]))).toBe("café");
    expect(decodeText(Buffer.from("\ufeffhé", "utf16le"))).toContain("hé");
  });
});

describe("A mail", () => {
  test("gives who, what, its text, and its parts", async () => {
    const mail = await readMail(
      await put(
        "a.eml",
        writeMail({
          from: "Tarrin <a@tarrin.example>",
          to: "b@merrowick.example",
          subject: "Invoice 77",
          date: "2026-11-18T08:00:00Z",
          text: "See the attachment.",
          attachments: [{ name: "77.pdf", type: "application/pdf", bytes: await drawPdf(paper, 1) }],
        }),
      ),
    );
    expect(mail.sender).toBe("Tarrin <a@tarrin.example>");
    expect(mail.parts.map((p) => [p.fileName, p.aside])).toEqual([["77.pdf", false]]);
    expect(mail.outcome.body).toContain("See the attachment.");
  });
  test("in HTML only gives words and no markup", async () => {
    const mail = await readMail(
      await put(
        "h.eml",
        "From: a@b.example\r\nTo: c@d.example\r\nSubject: x\r\nContent-Type: text/html; charset=utf-8\r\n\r\n<p>Hello <b>there</b></p><script>alert(1)</script><img src=x onerror=alert(2)>",
      ),
    );
    expect(mail.outcome.body).toContain("Hello there");
    expect(mail.outcome.body).not.toMatch(/<b>|<p>|alert|onerror/);
  });
});

describe("Bad input of every kind is answered, not crashed on (promise 12)", () => {
  const readers: Partial<Record<ContentKind, Reader>> = {
    pdf: readPdf,
    jpeg: readPicture,
    png: readPicture,
    tiff: readPicture,
    docx: readOffice,
    xlsx: readOffice,
    csv: readCsv,
    text: readText,
    xml: readText,
  };
  test("the kind goes by content, and reading ends with an outcome", async () => {
    const files = await badFiles();
    expect(files.length).toBeGreaterThan(12);
    for (const bad of files) {
      const file = await put(`bad-${bad.name}`, bad.bytes);
      const kind = bad.bytes.length === 0 ? "unknown" : await detectKind(file, bad.name);
      expect(`${bad.name} is ${kind}`).toBe(`${bad.name} is ${bad.kind}`);
      const outcome = await readers[kind]?.(file, options(bad.name, kind));
      if (kind === "mail") await expect(readMail(file)).resolves.toHaveProperty("outcome");
      if (bad.problem && outcome) expect(`${bad.name}: ${outcome.problem?.code}`).toBe(`${bad.name}: ${bad.problem}`);
    }
  }, 120_000);
});

test("kept words are checked when they are read back", () => {
  expect(wordsOf([["Quay", 1, 2, 3, 4]])).toEqual([{ text: "Quay", box: [1, 2, 3, 4] }]);
  for (const wrong of [null, "x", [["Quay", 1, 2, 3]], [[1, 1, 2, 3, 4]], [{}]]) expect(() => wordsOf(wrong)).toThrow(TypeError);
});
