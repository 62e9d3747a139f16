import { execFile } from "node:child_process";
import { mkdtemp, readdir, readFile, rm, stat, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import sharp from "sharp";
import { textOfWords } from "#core/pages/page-text.ts";
import { type ArrivalId, parseSha256 } from "#core/shared/brand.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { apartSchema, takeApart } from "../bench/take-apart.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord, takeAndLook, takeText } from "../db/test-world.ts";
import { beginPack, makePack, packFile } from "../packs/make-pack.ts";
import type { Actor } from "../people/load-actor.ts";
import { picturesFolder } from "../ports/adapters.ts";
import { developed, withoutMarks } from "./develop.ts";
import { loadView } from "./load-view.ts";
import { loadPages } from "./page-rows.ts";
import { pagePicture } from "./page-picture.ts";
import { localFile } from "../documents/local-file.ts";

const run = promisify(execFile);
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
/** As a telephone held upright keeps it: lying on its side, with two notes that say so, and a second shot behind it. */
let photo: Buffer;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  photo = await readFile("scenario/papers/quay.heic");
});
afterAll(() => world.end());

const hashOf = async (id: ArrivalId) => parseSha256((await loadArrival(admin, id))?.sha256 ?? "");

describe("A photograph as telephones keep it", () => {
  test("has a page that stands upright, with its words, also after its picture was thrown away", async () => {
    const id = await takeAndLook(admin, "IMG_2041.HEIC", photo);
    expect(await loadArrival(admin, id)).toMatchObject({ state: "ready", kind: "heic", pages: 1, problem: null });
    const sha256 = await hashOf(id);
    expect(await loadView(sha256)).toMatchObject({ pictures: true, pages: [{ width: 900, height: 1200, turn: 0 }] });
    expect(textOfWords((await loadPages(db(), sha256))[0]?.words ?? [])).toMatch(/Quay 4, Port Halven\s+Gangway certificate\s+GC-20431/i);
    await rm(path.join(picturesFolder(), sha256.slice(0, 2), sha256), { recursive: true });
    const picture = must(await pagePicture(sha256, "heic", 1, 480));
    expect(await sharp(picture).metadata()).toMatchObject({ width: 480, height: 640 });
    // The water is below, the hull on it.
    const { data, info } = await sharp(picture).raw().toBuffer({ resolveWithObject: true });
    const at = (x: number, y: number) => [...data.subarray((y * info.width + x) * 3, (y * info.width + x) * 3 + 3)];
    expect(at(240, 600)[2]).toBeGreaterThan((at(240, 600)[0] ?? 0) + 30);
    expect(at(240, 410)[0]).toBeGreaterThan((at(240, 410)[2] ?? 0) + 60);
    expect(await pagePicture(sha256, "heic", 2, 480)).toMatchObject({ ok: false, refusal: { code: "not-found" } });
  });

  test("goes to the bench and into a pack as a page, and stays the file that it is where it is filed", async () => {
    const id = await takeAndLook(admin, "quay.heic", photo, { key: "bench" });
    const other = await takeAndLook(admin, "other.heif", photo, { key: "other" });
    const page = (source: number) => ({ source, page: 1, turn: 0 as const });
    const done = must(
      await takeApart(
        admin,
        apartSchema.parse({
          sources: [{ arrival: id }, { arrival: other }],
          parts: [{ pages: [page(0), page(1)], fileName: "Damage.heic" }],
        }),
      ),
    );
    expect(done.parts[0]?.fileName).toBe("Damage.pdf");
    const joined = await loadArrival(admin, done.parts[0]?.id as ArrivalId);
    const told = (await run("pdfimages", ["-list", await localFile(parseSha256(joined?.sha256 ?? ""))])).stdout;
    // As developed, and not drawn once more.
    expect(told).toMatch(/1\s+0 image\s+900\s+1200 .* jpeg/);

    await putRecord(admin, "MF", "freightBooking", "B-31", { title: "Gangway" });
    const filed = await fileText(admin, "IMG_2042.heif", photo as never, {
      documentType: "photo",
      clips: [{ company: "MF", type: "freightBooking", key: "B-31" }],
    });
    expect(filed.path).toMatch(/\.heif$/);
    const pack = must(
      await beginPack(admin, { format: "pdf", scope: "own", records: [{ company: "MF", type: "freightBooking", key: "B-31" }] }),
    );
    await makePack(pack.id);
    const images = (await run("pdfimages", ["-list", must(await packFile(admin, pack.id)).file])).stdout;
    expect(images).toMatch(/image\s+900\s+1200 .* jpeg/);
  });

  test.each([
    ["cut in the middle", (b: Buffer) => b.subarray(0, 6000)],
    ["cut after its head", (b: Buffer) => b.subarray(0, 40)],
    ["with its picture overwritten", (b: Buffer) => Buffer.concat([b.subarray(0, 2500), Buffer.alloc(b.length - 2500, 0x5a)])],
  ])("%s is said to be damaged, and leaves nothing behind", async (name, harm) => {
    const id = await takeText(admin, `${name}.heic`, harm(photo));
    expect(await loadArrival(admin, id)).toMatchObject({ kind: "heic", problem: { code: "broken" } });
    const sha256 = await hashOf(id);
    expect(await developed(sha256)).toMatchObject({ ok: false, refusal: { code: "not-readable" } });
    await expect(stat(path.join(picturesFolder(), sha256.slice(0, 2), sha256, "developed.jpg"))).rejects.toThrow();
  });

  test("is tried again, and not said to be damaged, where there was no space for it; what was left half goes", async () => {
    const folder = await mkdtemp(path.join(os.tmpdir(), "amber-full-"));
    const before = process.env["PATH"];
    // As the program itself does on a full disk: half a picture, and an end as if all were well.
    await writeFile(path.join(folder, "heif-convert"), '#!/bin/bash\nprintf half > "${@: -1}"\necho "could not write image" >&2\n', {
      mode: 0o755,
    });
    process.env["PATH"] = `${folder}:${before}`;
    try {
      const full = Buffer.concat([photo, Buffer.alloc(16)]);
      await expect(takeText(admin, "full.heic", full, { key: "full" })).rejects.toMatchObject({ code: "reader-failed" });
      process.env["PATH"] = before;
      const id = await takeText(admin, "full.heic", full, { key: "full" });
      expect(await loadArrival(admin, id)).toMatchObject({ pages: 1, problem: null });
      const sha256 = await hashOf(id);
      expect((await readdir(path.join(picturesFolder(), sha256.slice(0, 2), sha256))).filter((n) => n.startsWith("developing-"))).toEqual(
        [],
      );
    } finally {
      process.env["PATH"] = before;
      await rm(folder, { recursive: true, force: true });
    }
  });

  test("waits with a reason where the program for it is not installed", async () => {
    const before = process.env["PATH"];
    process.env["PATH"] = "/nowhere";
    try {
      const id = await takeText(admin, "unopened.heic", Buffer.concat([photo, Buffer.alloc(8)]));
      expect(await loadArrival(admin, id)).toMatchObject({ kind: "heic", problem: { code: "reader-missing" } });
    } finally {
      process.env["PATH"] = before;
    }
  });
});

test("what a camera noted is taken out of a JPEG and nothing else; what is none is said to be none", async () => {
  const plain = await sharp({ create: { width: 60, height: 40, channels: 3, background: "#936" } })
    .jpeg()
    .toBuffer();
  const noted = await sharp(plain).withMetadata({ orientation: 6 }).jpeg().toBuffer();
  const bare = withoutMarks(noted);
  expect((await sharp(bare ?? undefined).metadata()).orientation).toBeUndefined();
  expect(
    (await sharp(noted).raw().toBuffer()).equals(
      await sharp(bare ?? undefined)
        .raw()
        .toBuffer(),
    ),
  ).toBe(true);
  for (const wrong of [
    Buffer.alloc(0),
    Buffer.from("not one"),
    noted.subarray(0, 30),
    noted.subarray(0, -8),
    Buffer.from([0xff, 0xd8, 0xff, 0xe1, 0xff, 0xff, 0]),
  ])
    expect(withoutMarks(wrong)).toBeNull();
});
