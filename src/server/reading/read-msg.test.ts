import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { burn } from "@kenjiuno/msgreader/lib/Burner.js";
import { writeMail } from "#scenario/papers/write-files.ts";
import { detectKind } from "./detect-kind.ts";
import { readMail, readMessageFile } from "./read-mail.ts";
import { readTnef } from "./read-tnef.ts";

let folder = "";
beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), "amber-msg-"));
});
afterAll(() => rm(folder, { recursive: true, force: true }));
const put = async (name: string, bytes: Uint8Array): Promise<string> => {
  const file = path.join(folder, name);
  await writeFile(file, bytes);
  return file;
};

/** A compound file with what a message has: subject, sender, text, one attachment. */
function message(): Uint8Array {
  const utf16 = (text: string): Uint8Array => new Uint8Array(Buffer.from(text, "utf16le"));
  const stream = (name: string, bytes: Uint8Array) => ({ name, type: 2, binaryProvider: () => bytes, length: bytes.length });
  const entries = [
    { name: "Root Entry", type: 5, length: 0, children: [1, 2, 3, 4, 5, 6] },
    stream("__properties_version1.0", new Uint8Array(32)),
    stream("__substg1.0_0037001F", utf16("Berth plan")),
    stream("__substg1.0_1000001F", utf16("See the plan.\r\nRona")),
    stream("__substg1.0_0C1A001F", utf16("Rona Firth")),
    stream("__substg1.0_0C1F001F", utf16("rona@skarra.example")),
    { name: "__attach_version1.0_#00000000", type: 1, length: 0, children: [7, 8, 9] },
    stream("__properties_version1.0", new Uint8Array(8)),
    stream("__substg1.0_3707001F", utf16("plan.txt")),
    stream("__substg1.0_37010102", new TextEncoder().encode("berth 4 to ferry 2")),
  ];
  return burn(entries as Parameters<typeof burn>[0]);
}

describe("A message file dropped by hand", () => {
  test("is known by its content, and taken apart like a mail", async () => {
    const file = await put("Berth plan.msg", message());
    expect(await detectKind(file, "whatever.bin")).toBe("msg");
    const read = await readMessageFile(file);
    expect(read).toMatchObject({ subject: "Berth plan", sender: "Rona Firth <rona@skarra.example>" });
    expect(read.outcome.body).toContain("See the plan.");
    expect(read.parts.map((p) => [p.fileName, new TextDecoder().decode(p.bytes)])).toEqual([["plan.txt", "berth 4 to ferry 2"]]);
  });
  test("that was cut off or is no message says so", async () => {
    for (const bytes of [message().slice(0, 900), new TextEncoder().encode("no message at all")])
      expect((await readMessageFile(await put("cut.msg", bytes))).outcome.problem?.code).toBe("broken");
  });
});

/** A winmail.dat by its published layout: signature, key, attributes with their length and check. */
function winmail(files: readonly { short: string; long?: string; bytes: Uint8Array }[]): Uint8Array {
  const pieces: Buffer[] = [Buffer.from([0x78, 0x9f, 0x3e, 0x22, 1, 0])];
  const attribute = (id: number, kind: number, data: Uint8Array): void => {
    const head = Buffer.alloc(9);
    head.writeUInt8(2, 0);
    head.writeUInt16LE(id, 1);
    head.writeUInt16LE(kind, 3);
    head.writeUInt32LE(data.length, 5);
    pieces.push(head, Buffer.from(data), Buffer.alloc(2));
  };
  for (const f of files) {
    attribute(0x9002, 6, Buffer.alloc(14));
    attribute(0x8010, 1, Buffer.from(`${f.short}\0`, "latin1"));
    attribute(0x800f, 6, f.bytes);
    if (f.long) {
      const text = Buffer.from(`${f.long}\0`, "utf16le");
      const property = Buffer.alloc(16);
      property.writeUInt32LE(1, 0);
      property.writeUInt16LE(0x1f, 4);
      property.writeUInt16LE(0x3707, 6);
      property.writeUInt32LE(1, 8);
      property.writeUInt32LE(text.length, 12);
      attribute(0x9005, 6, Buffer.concat([property, text]));
    }
  }
  return Buffer.concat(pieces);
}

describe("A winmail.dat", () => {
  const files = [
    { short: "PACKIN~1.TXT", long: "Packing list B-20418.txt", bytes: Buffer.from("12 crates") },
    { short: "note.txt", bytes: Buffer.from("by return") },
  ];
  test("gives the files that were packed into it, by their long names", () => {
    expect(readTnef(winmail(files))?.map((f) => [f.fileName, Buffer.from(f.bytes).toString()])).toEqual([
      ["Packing list B-20418.txt", "12 crates"],
      ["note.txt", "by return"],
    ]);
  });
  test("that is cut off gives what came before; anything else is none", () => {
    const whole = winmail(files);
    for (let cut = 0; cut < whole.length; cut += 7) expect(() => readTnef(whole.slice(0, cut))).not.toThrow();
    expect(readTnef(whole.slice(0, whole.length - 20))?.[0]?.fileName).toBe("Packing list B-20418.txt");
    expect(readTnef(Buffer.from("not a package"))).toBeNull();
  });
  test("in a mail, its files are the parts and the package itself is left aside", async () => {
    const mail = writeMail({
      from: "a@b.example",
      to: "c@d.example",
      subject: "Packed",
      date: "2026-11-20T09:00:00Z",
      text: "see attached",
      attachments: [{ name: "winmail.dat", type: "application/ms-tnef", bytes: winmail(files) }],
    });
    const read = await readMail(await put("packed.eml", mail));
    expect(read.parts.map((p) => [p.fileName, p.aside])).toEqual([
      ["winmail.dat", true],
      ["Packing list B-20418.txt", false],
      ["note.txt", false],
    ]);
  });
});
