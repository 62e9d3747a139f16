import { execFile } from "node:child_process";
import { cp, mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import { PDFDocument, PDFName, PDFString } from "@cantoo/pdf-lib";
import { sql } from "drizzle-orm";
import sharp from "sharp";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { fileText, makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { atTime } from "../ports/clock.ts";
import { packWishSchema } from "./choose-records.ts";
import { beginPack, clearPacks, giveUpPack, listPacks, makePack, packFile, type PackAnswer } from "./make-pack.ts";
import { loadPacked } from "./load-papers.ts";
import { writeBag } from "./write-bag.ts";

const run = promisify(execFile);
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let light: Actor;
let auditor: Actor;
let folder = "";
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  clerk = await actorByMail("tam.corrigall@merrowick.example");
  light = await actorByMail("pell.ashby@merrowick.example");
  auditor = await actorByMail("ferris.dunmore@merrowick.example");
  folder = await mkdtemp(path.join(os.tmpdir(), "amber-packs-"));
  for (const key of ["B-1", "B-2"])
    await putRecord(admin, "MF", "freightBooking", key, { title: `Booking ${key}, Ærø/50 %`, fields: { sailingDate: "2026-11-18" } });
  const to = (key: string) => ({ company: "MF", type: "freightBooking", key });
  const put = async (name: string, body: string | Uint8Array, documentType: string, ...keys: string[]) =>
    fileText(admin, name, body as string, { documentType, clips: keys.map(to) });
  await put("list.pdf", await withScript(await makePaper("Packing list one", "page two")), "packingList", "B-1", "B-2");
  await put(
    "quay.jpg",
    await sharp({ create: { width: 400, height: 300, channels: 3, background: "#88aacc" } })
      .jpeg()
      .toBuffer(),
    "photo",
    "B-1",
  );
  await put("letter.txt", "Dear quay office,\nthe crates were wet – all of them.\n".repeat(3), "letter", "B-1");
  await put("broken.pdf", "%PDF-1.7\nthis is no document", "bookingRequest", "B-2");
  for (let i = 1; i <= 40; i++)
    await putRecord(admin, "MF", "supplierInvoice", `SI-${String(i).padStart(3, "0")}`, {
      title: `Invoice ${i}`,
      fields: { total: "1.00" },
    });
});
afterAll(async () => {
  await rm(folder, { recursive: true, force: true });
  await world.end();
});

/** A document that would run something when it is opened. */
async function withScript(bytes: Uint8Array): Promise<Uint8Array> {
  const pdf = await PDFDocument.load(bytes);
  const script = pdf.context.obj({ S: "JavaScript", JS: PDFString.of("app.alert(1)") });
  pdf.catalog.set(PDFName.of("OpenAction"), script);
  pdf.getPage(0).node.set(PDFName.of("AA"), pdf.context.obj({ O: script }));
  return pdf.save();
}
const both = [
  { company: "MF", type: "freightBooking", key: "B-1" },
  { company: "MF", type: "freightBooking", key: "B-2" },
];
async function made(who: Actor, wish: Parameters<typeof packWishSchema.parse>[0]): Promise<{ pack: PackAnswer; file: string }> {
  const { id } = must(await beginPack(who, packWishSchema.parse(wish)));
  await makePack(id);
  const pack = (await listPacks(who, id))[0];
  if (!pack) throw new Error("no pack");
  return { pack, file: must(await packFile(who, id)).file };
}
const verify = async (file: string): Promise<{ code: number; said: string }> =>
  run(process.execPath, ["--import", "tsx", "ops/verify-pack.ts", file], { env: { PATH: process.env["PATH"], NODE_ENV: "test" } }).then(
    ({ stdout }) => ({ code: 0, said: stdout }),
    (error: unknown) => {
      const { code, stdout } = error as { code: number; stdout: string };
      return { code, said: stdout };
    },
  );

describe("A pack as a folder with proofs", () => {
  test("holds every document once, as it is, with records, checklists, timelines and an index; and is verified with nothing but itself", async () => {
    const { pack, file } = await made(clerk, { format: "folder", records: both });
    expect(pack).toMatchObject({ state: "done", records: 2, papers: 4, leftOut: [] });
    expect(await verify(file)).toMatchObject({ code: 0, said: expect.stringContaining("intact: 4 documents") as string });
    const target = path.join(folder, "unpacked");
    await run("unzip", ["-q", file, "-d", target]);
    const top = path.join(target, pack.label);
    const index = JSON.parse(await readFile(path.join(top, "data/index.json"), "utf8")) as {
      papers: { file: string; records: string; code: string }[];
      madeBy: string;
    };
    expect(index.madeBy).toBe("Tam Corrigall");
    expect(index.papers.find((p) => p.file.includes("Packing list"))?.records).toBe("MF freightBooking B-1; MF freightBooking B-2");
    const record = JSON.parse(await readFile(path.join(top, "data/records/MF freightBooking B-1/record.json"), "utf8")) as {
      papers: { file: string }[];
    };
    for (const p of record.papers) await readFile(path.join(top, "data", p.file));
    expect(await readFile(path.join(top, "data/records/MF freightBooking B-1/timeline.json"), "utf8")).toContain("clipped");
    expect(await readFile(path.join(top, "data/records/MF freightBooking B-1/checklist.json"), "utf8")).toContain("packingList");
    expect(await verify(top)).toMatchObject({ code: 0 });
    // One letter of one document, one more file, one file less: each is found out.
    for (const [change, words] of [
      [() => writeFile(path.join(top, "data/index.csv"), "code\n"), "index.csv: was altered"],
      [() => writeFile(path.join(top, "data/papers/more.pdf"), "x"), "more.pdf: was added"],
      [() => rm(path.join(top, "data", record.papers[0]?.file ?? "")), "is missing"],
    ] as const) {
      await cp(top, path.join(folder, "kept"), { recursive: true });
      await change();
      const found = await verify(top);
      expect(found.code).toBe(1);
      expect(found.said).toContain(words);
      await rm(top, { recursive: true });
      await cp(path.join(folder, "kept"), top, { recursive: true });
    }
    expect((await verify(path.join(folder, "no such"))).code).toBe(2);
    await writeFile(path.join(folder, "cut.zip"), (await readFile(file)).subarray(0, 3000));
    expect(await verify(path.join(folder, "cut.zip"))).toMatchObject({ code: 1 });
  });

  test("holds only what the person may see", async () => {
    const { pack, file } = await made(light, { format: "folder", records: both });
    expect(pack.papers).toBe(2);
    const listed = await run("unzip", ["-l", file]);
    expect(listed.stdout).toContain("Packing list");
    expect(listed.stdout).not.toContain("Letter");
    expect(
      await beginPack(
        light,
        packWishSchema.parse({ format: "folder", records: [{ company: "MF", type: "supplierInvoice", key: "SI-001" }] }),
      ),
    ).toMatchObject({
      refusal: { code: "not-found" },
    });
    expect(await packFile(clerk, pack.id)).toMatchObject({ refusal: { code: "not-found" } });
  });

  test("can be a sample that whoever draws again with its seed gets again", async () => {
    const wish = { format: "folder", filter: { type: "supplierInvoice", company: "MF" }, sample: { size: 25, seed: 4711 } } as const;
    const first = await made(auditor, wish);
    const again = await made(auditor, wish);
    const other = await made(auditor, { ...wish, sample: { size: 25, seed: 4712 } });
    const chosen = async (id: string) =>
      (await db().execute<{ keys: string }>(sql`select wish->'chosen' as keys from pack where id = ${id}`)).rows[0]?.keys;
    expect(first.pack.records).toBe(25);
    expect(await chosen(first.pack.id)).toEqual(await chosen(again.pack.id));
    expect(await chosen(first.pack.id)).not.toEqual(await chosen(other.pack.id));
    expect(await verify(first.file)).toMatchObject({ code: 0 });
  });
});

describe("A pack as one PDF", () => {
  test("has an index that leads to the documents, bookmarks, a line on every page, and nothing that runs", async () => {
    const { pack, file } = await made(clerk, { format: "pdf", records: both });
    expect(pack).toMatchObject({ state: "done", records: 2, papers: 3 });
    expect(pack.leftOut).toMatchObject([{ why: "it is locked or broken" }]);
    const text = (await run("pdftotext", ["-layout", file, "-"])).stdout;
    const pages = text.split("\f");
    expect(pages[0]).toContain("B-1");
    expect(pages[0]).toContain("Not in this pack");
    expect(text).toContain("Packing list one");
    expect(text).toContain("the crates were wet");
    expect(text).toMatch(/AC-\d+ · Packing list B-1 · version 1 · page 2 of 2 · sha-256 [0-9a-f]{16}/);
    const pdf = await PDFDocument.load(await readFile(file));
    expect(pdf.getPageCount()).toBe(1 + 2 + 1 + 1);
    expect(pdf.catalog.has(PDFName.of("Outlines"))).toBe(true);
    expect(pdf.getPage(0).node.has(PDFName.of("Annots"))).toBe(true);
    expect((await run("qpdf", ["--check", file])).stdout).toContain("No syntax or stream encoding errors");
    const raw = (await run("qpdf", ["--qdf", "--object-streams=disable", file, "-"], { encoding: "latin1", maxBuffer: 1e8 })).stdout;
    expect(raw).not.toMatch(/JavaScript|OpenAction|\/AA/);
    expect(raw).toContain("/Outlines");
  });
});

describe("Packs", () => {
  test("of nothing are refused, and are cleared after a week", async () => {
    expect(await beginPack(clerk, packWishSchema.parse({ format: "pdf" }))).toMatchObject({ refusal: { code: "pack-empty" } });
    const { pack, file } = await made(clerk, { format: "pdf", records: both.slice(1) });
    await clearPacks();
    expect((await listPacks(clerk, pack.id))[0]?.state).toBe("done");
    await atTime(
      () => new Date(Date.now() + 8 * 86_400_000),
      async () => clearPacks(),
    );
    expect((await listPacks(clerk, pack.id))[0]?.state).toBe("gone");
    expect(await packFile(clerk, pack.id)).toMatchObject({ refusal: { code: "pack-gone" } });
    await expect(readFile(file)).rejects.toThrow();
  });

  test("are not given out any more when a right to a part of them was taken away, and are again when it comes back", async () => {
    const { pack } = await made(clerk, { format: "folder", records: both });
    const without = (change: (g: (typeof clerk.grants)[number]) => (typeof clerk.grants)[number]): Actor => ({
      ...clerk,
      grants: clerk.grants.map(change),
    });
    const noPhotos = without((g) => ({
      ...g,
      documentTypes: g.documentTypes === "all" ? [] : g.documentTypes.filter((t) => t !== "photo"),
    }));
    const noBookings = without((g) => ({
      ...g,
      recordTypes: g.recordTypes === "all" ? [] : g.recordTypes.filter((t) => t !== "freightBooking"),
    }));
    for (const who of [noPhotos, noBookings]) expect(await packFile(who, pack.id)).toMatchObject({ refusal: { code: "not-allowed" } });
    expect((await packFile(clerk, pack.id)).ok).toBe(true);
    // One that was made before it was kept what is in it is not given out on trust.
    await db().execute(sql`update pack set documents = null where id = ${pack.id}`);
    expect(await packFile(clerk, pack.id)).toMatchObject({ refusal: { code: "not-allowed" } });
  });

  test("that could not be made say why in words, not in codes", async () => {
    const { id } = must(await beginPack(clerk, packWishSchema.parse({ format: "pdf", records: both })));
    const whyOf = async (): Promise<string> => (await listPacks(clerk, id))[0]?.why ?? "";
    for (const [code, words] of [
      ["ENOSPC", /No storage space left/],
      ["pack-too-long", /use the folder format/],
      ["EWHATEVER", /could not be created/],
    ] as const) {
      await giveUpPack(id, code);
      expect(await whyOf()).toMatch(words);
      expect(await whyOf()).not.toContain(code);
    }
  });

  test("whose file cannot be written end at once with the reason, however large the document that was on its way", async () => {
    await putRecord(admin, "MF", "vessel", "V-1", { title: "MV Long" });
    await fileText(admin, "long.txt", "rope and rigging ".repeat(60_000), {
      documentType: "letter",
      clips: [{ company: "MF", type: "vessel", key: "V-1" }],
    });
    const taken = path.join(folder, "taken.zip");
    await writeFile(taken, "somebody else's");
    const long = await loadPacked(admin, { company: "MF", type: "vessel", key: "V-1" }, "own");
    async function* records() {
      if (long) yield await Promise.resolve(long);
    }
    const about = { label: "x", madeBy: "x", madeAt: new Date().toISOString(), chosen: "x" };
    await expect(writeBag(taken, about, records(), async () => {})).rejects.toMatchObject({ code: "EEXIST" });
    expect(await readFile(taken, "utf8")).toBe("somebody else's");
  });

  test("that are begun again after a kill are made whole, once", async () => {
    const { id } = must(await beginPack(clerk, packWishSchema.parse({ format: "folder", records: both })));
    await Promise.all([makePack(id)]);
    const before = (await listPacks(clerk, id))[0];
    await makePack(id);
    expect((await listPacks(clerk, id))[0]).toEqual(before);
  });
});
