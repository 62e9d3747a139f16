import { execFile } from "node:child_process";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import sharp from "sharp";
import { type ContentKind, defaultLimits, isKindAllowed, isMislabelled } from "#core/arrivals/limits.ts";
import { detectKind, isEncryptedOffice } from "./detect-kind.ts";
import { readMail } from "./read-mail.ts";
import { readPdf } from "./read-pdf.ts";
import { readTnef } from "./read-tnef.ts";
import { splitMailbox } from "./split-mailbox.ts";

const run = promisify(execFile);
const CONVERT = "convert-im6.q16";
let folder: string;
beforeAll(async () => void (folder = await mkdtemp(path.join(os.tmpdir(), "amber-foreign-"))));
afterAll(() => rm(folder, { recursive: true, force: true }));
let nth = 0;
async function file(bytes: string | Uint8Array, name = "file"): Promise<string> {
  const at = path.join(folder, `${nth++}-${name}`);
  await writeFile(at, typeof bytes === "string" ? Buffer.from(bytes.replaceAll("\n", "\r\n"), "latin1") : bytes);
  return at;
}
const head =
  "From: Ada <ada@sea.example>\nTo: b@quay.example\nSubject: Documents\nDate: Wed, 18 Nov 2026 09:00:00 +0000\nMIME-Version: 1.0\n";
const mixed = (...parts: readonly string[]): string =>
  `${head}Content-Type: multipart/mixed; boundary=B\n\n${parts.map((p) => `--B\n${p}\n`).join("")}--B--\n`;
const body = "Content-Type: text/plain\n\nSee the enclosed.";
const namesOf = async (mail: string) => {
  const { outcome, parts } = await readMail(await file(mail, "a.eml"));
  return { text: outcome.outline?.kind === "mail" ? outcome.outline.text.trim() : null, names: parts.map((p) => p.fileName), parts };
};

describe("A text part of a mail that is a file", () => {
  test.each([
    ["said to be an attachment", 'Content-Type: text/plain\nContent-Disposition: attachment; filename="list.txt"\n\nthe list', "list.txt"],
    ["that only has a name", 'Content-Type: text/html; name="offer.html"\n\n<p>the list</p>', "offer.html"],
    ["shown within the mail", 'Content-Type: text/plain\nContent-Disposition: inline; filename="list.txt"\n\nthe list', "list.txt"],
    [
      "named in Latin-1 as it is",
      'Content-Type: text/plain\nContent-Disposition: attachment; filename="r\xe9sum\xe9.txt"\n\nthe list',
      "résumé.txt",
    ],
  ])("%s is an attachment and not the mail's text", async (_, part, name) => {
    const read = await namesOf(mixed(body, part));
    expect(read).toMatchObject({ text: "See the enclosed.", names: [name] });
    expect(Buffer.from(read.parts[0]?.bytes ?? []).toString()).toContain("the list");
  });
  test("is one in signed mail too", async () => {
    const inner = `Content-Type: multipart/mixed; boundary=B\n\n--B\n${body}\n--B\nContent-Type: text/html; name=offer.html\n\n<p>x</p>\n--B--\n`;
    const signed = `${head}Content-Type: multipart/signed; boundary=S; protocol="application/pgp-signature"\n\n--S\n${inner}\n--S\nContent-Type: application/pgp-signature; name=sig.asc\n\nx\n--S--\n`;
    expect(await namesOf(signed)).toMatchObject({ text: "See the enclosed.", names: ["offer.html", "sig.asc"] });
  });
  test("stays the text where it is the only one, an alternative, or a list's footer without a name", async () => {
    expect(await namesOf(mixed('Content-Type: text/plain; name="message.txt"\n\nonly this'))).toMatchObject({
      text: "only this",
      names: [],
    });
    expect(await namesOf(mixed(body, "Content-Type: text/plain\n\n-- the list"))).toMatchObject({ names: [] });
    const either = `${head}Content-Type: multipart/alternative; boundary=A\n\n--A\n${body}\n--A\nContent-Type: text/html; name=x.html\n\n<p>See</p>\n--A--\n`;
    expect(await namesOf(either)).toMatchObject({ text: "See the enclosed.", names: [] });
  });
});

describe("A mailbox file", () => {
  const message = (n: number) =>
    `From ada@sea.example Wed Nov 18 09:0${n}:00 2026\n${head}Message-ID: <${n}@sea.example>\n\nText ${n}\n>From here on\n\n`;
  test("has each of its messages as a part", async () => {
    const read = await readMail(await file(message(1) + message(2), "box.mbox"));
    expect(read.parts.map((p) => p.fileName)).toEqual(["message-1.eml", "message-2.eml"]);
    expect(Buffer.from(read.parts[1]?.bytes ?? []).toString()).toMatch(/^From: Ada[^]*Text 2\r\nFrom here on/);
  });
  test("with one message is that message; a sentence that begins with From parts nothing", async () => {
    expect((await readMail(await file(message(1), "one.mbox"))).subject).toBe("Documents");
    expect(splitMailbox(Buffer.from(`${head}\n\nFrom Monday on we are closed\n`))).toHaveLength(1);
    expect(splitMailbox(Buffer.from("From "))).toHaveLength(1);
  });
});

describe("A winmail.dat", () => {
  const u16 = (n: number) => [n & 255, (n >> 8) & 255];
  const u32 = (n: number) => [...u16(n & 65535), ...u16(n >>> 16)];
  const attribute = (id: number, data: readonly number[]) => [2, ...u16(id), ...u16(0), ...u32(data.length), ...data, ...u16(0)];
  const padded = (data: readonly number[]) => [...data, ...Array.from({ length: (4 - (data.length % 4)) % 4 }, () => 0)];
  const text = (t: string) => [...Buffer.from(`${t}\0`, "latin1")];
  const variable = (kind: number, id: number, data: readonly number[]) => [
    ...u16(kind),
    ...u16(id),
    ...u32(1),
    ...u32(data.length),
    ...padded(data),
  ];
  const named = [
    ...u16(0x1e),
    ...u16(0x8001),
    ...Array.from({ length: 16 }, () => 7),
    ...u32(1),
    ...u32(6),
    ...padded([65, 0, 66, 0, 0, 0]),
    ...u32(1),
    ...u32(2),
    ...padded([88, 0]),
  ];
  const packed = (...attributes: readonly (readonly number[])[]) => new Uint8Array([0x78, 0x9f, 0x3e, 0x22, 1, 0, ...attributes.flat()]);
  const inProperties = (name: string, bytes: string) => {
    const all = [
      [...u16(3), ...u16(0x3705), ...u32(1)],
      named,
      variable(0x1e, 0x3707, text(name)),
      variable(0x102, 0x3701, text(bytes).slice(0, -1)),
    ];
    return attribute(0x9005, [...u32(all.length), ...all.flat()]);
  };
  test("whose files are among the properties gives both of them", () => {
    const files = readTnef(
      packed(attribute(0x9002, [0]), inProperties("first.txt", "one"), attribute(0x9002, [0]), inProperties("second.txt", "two")),
    );
    expect(files?.map((f) => [f.fileName, Buffer.from(f.bytes).toString()])).toEqual([
      ["first.txt", "one"],
      ["second.txt", "two"],
    ]);
  });
  test("in which a message was attached gives the files of that message", () => {
    const inner = [...packed(attribute(0x9002, [0]), attribute(0x8010, text("inner.pdf")), attribute(0x800f, text("x")))];
    const object = variable(0x0d, 0x3701, [...Array.from({ length: 16 }, () => 1), ...inner]);
    const files = readTnef(packed(attribute(0x9002, [0]), attribute(0x9005, [...u32(1), ...object])));
    expect(files?.map((f) => f.fileName)).toEqual(["inner.pdf"]);
  });
  test("that is cut off anywhere never throws", () => {
    const whole = packed(attribute(0x9002, [0]), inProperties("first.txt", "one"));
    for (let length = 0; length < whole.length; length++) expect(() => readTnef(whole.subarray(0, length))).not.toThrow();
  });
  test("is known by its beginning, whatever it is called and sent as", async () => {
    const bytes = Buffer.from(packed(attribute(0x9002, [0]), attribute(0x8010, text("in.txt")), attribute(0x800f, text("x"))));
    const part = `Content-Type: application/vnd.ms-tnef; name=odd.bin\nContent-Transfer-Encoding: base64\nContent-Disposition: attachment\n\n${bytes.toString("base64")}`;
    expect((await namesOf(mixed(body, part))).parts.map((p) => [p.fileName, p.aside])).toEqual([
      ["odd.bin", true],
      ["in.txt", false],
    ]);
  });
});

describe("Pictures and office files that only some programs make", () => {
  const drawn = async (name: string, ...how: readonly string[]): Promise<string> => {
    const at = path.join(folder, name);
    await run(CONVERT, ["-size", "60x40", "gradient:red-blue", ...how, at]);
    return at;
  };
  test("are known by their content, and allowed by name", async () => {
    const avif = path.join(folder, "a.avif");
    await sharp({ create: { width: 40, height: 20, channels: 3, background: "#f80" } })
      .avif()
      .toFile(avif);
    const kinds: readonly (readonly [string, ContentKind])[] = [
      [avif, "avif"],
      [await drawn("a.bmp"), "bmp"],
      [await drawn("usual.tif"), "tiff"],
      [await drawn("twelve.tif", "-depth", "12"), "tiffOther"],
      [await drawn("lab.tif", "-colorspace", "Lab"), "tiffOther"],
    ];
    for (const [at, kind] of kinds) expect([path.basename(at), await detectKind(at, path.basename(at))]).toEqual([path.basename(at), kind]);
    expect(isKindAllowed("tiffOther", { kinds: ["tiff"] })).toBe(true);
    expect(isKindAllowed("docm", { kinds: ["docx"] })).toBe(false);
    expect(isKindAllowed("docm", defaultLimits)).toBe(true);
    expect(isMislabelled(".tif", "tiffOther")).toBe(false);
  });
  test("an encrypted office file is known by its package", async () => {
    const cfb = Buffer.concat([
      Buffer.from("d0cf11e0a1b11ae1", "hex"),
      Buffer.alloc(2000),
      Buffer.from("EncryptedPackage", "utf16le"),
      Buffer.alloc(200),
    ]);
    expect(await isEncryptedOffice(await file(cfb))).toBe(true);
    expect(await isEncryptedOffice(await file(Buffer.alloc(400)))).toBe(false);
  });
});

test("a PDF whose content draws itself without end is stopped, with what was found and its problem", async () => {
  // A form that draws ten of the next, twelve deep: a million million drawings of one word.
  const depth = 12;
  const objects = [
    "<< /Type /Catalog /Pages 2 0 R >>",
    "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
    "<< /Type /Page /Parent 2 0 R /MediaBox [0 0 200 200] /Contents 4 0 R /Resources << /XObject << /F 6 0 R >> /Font << /T 5 0 R >> >> >>",
    "<< /Length 5 >>\nstream\n/F Do\nendstream",
    "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
    ...Array.from({ length: depth }, (_, i) => {
      const draws = i === depth - 1 ? "BT /T 9 Tf 10 10 Td (word) Tj ET" : Array.from({ length: 40 }, () => "/F Do").join(" ");
      return `<< /Type /XObject /Subtype /Form /BBox [0 0 200 200] /Resources << /XObject << /F ${7 + i} 0 R >> /Font << /T 5 0 R >> >> /Length ${draws.length} >>\nstream\n${draws}\nendstream`;
    }),
  ];
  const pdf = `%PDF-1.4\n${objects.map((o, i) => `${i + 1} 0 obj\n${o}\nendobj\n`).join("")}trailer << /Root 1 0 R >>\n%%EOF`;
  const began = Date.now();
  const read = await readPdf(await file(Buffer.from(pdf, "latin1"), "endless.pdf"), {
    pagesMax: 100,
    fileName: "endless.pdf",
    kind: "pdf",
    clockMs: 3_000,
  });
  expect(read.problem?.code).toBe("too-slow");
  expect(Date.now() - began).toBeLessThan(20_000);
});
