import { buffer } from "node:stream/consumers";
import { ZipFile } from "yazl";
import { drawPdf } from "./draw-pdf.ts";

/** A file that is wrong in one way, what it is by its content, and what should be said of it. */
export interface BadFile {
  readonly name: string;
  readonly bytes: Uint8Array;
  readonly kind: string;
  readonly problem: string | null;
}

/** Files that are really broken, mislabelled or hostile, for the tests. */
export async function badFiles(): Promise<readonly BadFile[]> {
  const pdf = await drawPdf(
    { heading: "Invoice", sender: { name: "A", address: "B" }, recipient: { name: "C", address: "D" }, date: "2026-11-01", references: [] },
    0,
  );
  const text = (t: string): Uint8Array => new TextEncoder().encode(t);
  const bomb = new ZipFile();
  bomb.addBuffer(
    Buffer.from(
      '<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Override PartName="/word/document.xml" ContentType="application/vnd.openxmlformats-officedocument.wordprocessingml.document.main+xml"/></Types>',
    ),
    "[Content_Types].xml",
  );
  bomb.addBuffer(Buffer.alloc(450 * 1024 * 1024), "word/document.xml", { compressionLevel: 1 });
  bomb.end();
  const noise = Uint8Array.from({ length: 4000 }, (_, i) => (i * 7919 + 13) % 251);
  return [
    { name: "empty.pdf", bytes: new Uint8Array(), kind: "unknown", problem: "empty" },
    { name: "only a head.pdf", bytes: text("%PDF-1.7\n"), kind: "pdf", problem: "broken" },
    { name: "cut.pdf", bytes: pdf.slice(0, 300), kind: "pdf", problem: "broken" },
    { name: "rubbish.pdf", bytes: noise, kind: "unknown", problem: null },
    { name: "junk before.pdf", bytes: new Uint8Array([...text("HTTP/1.1 200 OK\r\n\r\n"), ...pdf]), kind: "pdf", problem: null },
    {
      name: "is a picture.pdf",
      bytes: Uint8Array.from(
        Buffer.from("iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==", "base64"),
      ),
      kind: "png",
      problem: null,
    },
    {
      name: "cut.png",
      bytes: Uint8Array.from(Buffer.from("iVBORw0KGgoAAAANSUhEUgAAA+gAAAPoCAYAAABNo9TkAAAADUlEQVR42mP8", "base64")),
      kind: "png",
      problem: "broken",
    },
    {
      name: "half.jpg",
      bytes: Uint8Array.from([0xff, 0xd8, 0xff, 0xe0, 0, 16, 0x4a, 0x46, 0x49, 0x46, 0, 1, 1, 0, 0, 1]),
      kind: "jpeg",
      problem: "broken",
    },
    { name: "cut.heic", bytes: text("\u0000\u0000\u0000\u0018ftypheic\u0000\u0000\u0000\u0000mif1heic"), kind: "heic", problem: "broken" },
    { name: "bomb.docx", bytes: await buffer(bomb.outputStream), kind: "docx", problem: "broken" },
    { name: "not a book.xlsx", bytes: text("just text\nin two lines"), kind: "text", problem: null },
    {
      name: "entities.xml",
      bytes: text('<?xml version="1.0"?><!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd"><!ENTITY b "&x;&x;&x;">]><a>&b;</a>'),
      kind: "xml",
      problem: null,
    },
    { name: "one long line.csv", bytes: text(`a,${"b".repeat(300_000)}`), kind: "csv", problem: null },
    { name: "quotes.csv", bytes: text('a,"b\nc,d"e,"f\n"'), kind: "csv", problem: null },
    {
      name: "program.txt",
      bytes: new Uint8Array([0x7f, 0x45, 0x4c, 0x46, 2, 1, 1, 0, ...new Uint8Array(60)]),
      kind: "program",
      problem: null,
    },
    {
      name: "mail without end.eml",
      bytes: text(
        'From: a@b.example\r\nTo: c@d.example\r\nSubject: =?utf-8?B?broken\r\nContent-Type: multipart/mixed; boundary="x"\r\n\r\n--x\r\nContent-Transfer-Encoding: base64\r\n\r\n%%%%not base64',
      ),
      kind: "mail",
      problem: null,
    },
    {
      name: "nested.eml",
      bytes: text(
        `From: a@b.example\r\nTo: c@d.example\r\nSubject: deep\r\n${Array.from({ length: 60 }, (_, i) => `Content-Type: multipart/mixed; boundary="b${i}"\r\n\r\n--b${i}\r\n`).join("")}`,
      ),
      kind: "mail",
      problem: null,
    },
    { name: "nul.txt", bytes: text("a\u0000b"), kind: "unknown", problem: null },
  ];
}
