import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { mkdir, readdir, utimes, writeFile } from "node:fs/promises";
import path from "node:path";
import { eq } from "drizzle-orm";
import JSZip from "jszip";
import sharp from "sharp";
import { textOfWords } from "#core/pages/page-text.ts";
import { type ArrivalId, parseSha256 } from "#core/shared/brand.ts";
import { writeDocx } from "#scenario/papers/write-files.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { db } from "../db/connect.ts";
import { content } from "../documents/tables.ts";
import { lookAt, makeSetUpDatabase, must, takeAndLook, takeText } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { picturesFolder } from "../ports/adapters.ts";
import { canLayOut, layOut } from "./lay-out.ts";
import { loadView } from "./load-view.ts";
import { loadPages } from "./page-rows.ts";
import { pagePicture } from "./page-picture.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
});
afterAll(() => world.end());

const hashOf = async (id: ArrivalId) => parseSha256((await loadArrival(admin, id))?.sha256 ?? "");
const textOf = async (id: ArrivalId): Promise<string> =>
  (await loadPages(db(), await hashOf(id))).map((p) => textOfWords(p.words)).join("\n");

const xml = '<?xml version="1.0" encoding="UTF-8"?>';
const spaces =
  'xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0" xmlns:script="urn:oasis:names:tc:opendocument:xmlns:script:1.0" xmlns:xlink="http://www.w3.org/1999/xlink" xmlns:draw="urn:oasis:names:tc:opendocument:xmlns:drawing:1.0" xmlns:svg="urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0" xmlns:dom="http://www.w3.org/2001/xml-events" xmlns:library="http://openoffice.org/2000/library"';
/** An OpenDocument text with this body, and more parts when wanted. */
async function odt(body: string, scripts = "", parts: Readonly<Record<string, string>> = {}): Promise<Uint8Array> {
  const zip = new JSZip();
  zip.file("mimetype", "application/vnd.oasis.opendocument.text", { compression: "STORE" });
  const entries = ["content.xml", ...Object.keys(parts)].map(
    (n) => `<manifest:file-entry manifest:full-path="${n}" manifest:media-type="text/xml"/>`,
  );
  zip.file(
    "META-INF/manifest.xml",
    `${xml}<manifest:manifest xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0"><manifest:file-entry manifest:full-path="/" manifest:media-type="application/vnd.oasis.opendocument.text"/>${entries.join("")}</manifest:manifest>`,
  );
  zip.file(
    "content.xml",
    `${xml}<office:document-content ${spaces} office:version="1.2">${scripts}<office:body><office:text>${body}</office:text></office:body></office:document-content>`,
  );
  for (const [name, text] of Object.entries(parts)) zip.file(name, text);
  return zip.generateAsync({ type: "uint8array" });
}

test("the programs for it are installed where the tests run", () => expect(canLayOut()).toBe(true));

describe("An office file", () => {
  test("is ready by its text at once, and has pages with words at their places when it was laid out", async () => {
    const file = await writeDocx(["Contract of employment", "Rank: Bosun", ...Array.from({ length: 90 }, (_, i) => `Clause ${i + 1}`)]);
    const id = await takeText(admin, "contract.docx", file);
    const before = await loadView(await hashOf(id));
    expect(before).toMatchObject({ pictures: false });
    expect(before?.text).toContain("Rank: Bosun");
    const again = await takeAndLook(admin, "contract.docx", file, { key: "again" });
    const view = await loadView(await hashOf(again));
    expect(view).toMatchObject({ kind: "docx", pictures: true, text: null, looking: null });
    expect(view?.pages.length).toBeGreaterThan(1);
    const first = (await loadPages(db(), await hashOf(again)))[0];
    const bosun = first?.words.find((w) => w.text === "Bosun");
    const contract = first?.words.find((w) => w.text === "Contract");
    expect(bosun && contract && bosun.box[1] > contract.box[1]).toBe(true);
    // Drawn like any other page, also when what was made before was thrown away.
    const picture = must(await pagePicture(await hashOf(again), "docx", 1, 480));
    expect((await sharp(picture).metadata()).width).toBe(480);
    expect(await pagePicture(await hashOf(again), "docx", 99, 160)).toMatchObject({ ok: false });
    // It is one document: nothing is proposed for the bench, which cuts PDFs and pictures.
    const kept = await db()
      .select({ cuts: content.cuts, pages: content.pages })
      .from(content)
      .where(eq(content.sha256, await hashOf(again)));
    expect(kept).toEqual([{ cuts: [], pages: view?.pages.length }]);
  });

  test("of another make than ours to read has its words from its pages", async () => {
    const rtf = await takeAndLook(
      admin,
      "note.rtf",
      String.raw`{\rtf1\ansi\deff0{\fonttbl{\f0 Liberation Sans;}}\f0 Survey of trailer T-4471 at berth two\par Seal broken\par}`,
    );
    expect(await textOf(rtf)).toContain("trailer T-4471");
    const text = await takeAndLook(admin, "letter.odt", await odt("<text:p>Dear Sirs, booking B-20417</text:p>"));
    expect(await textOf(text)).toContain("B-20417");
    expect(await loadView(await hashOf(text))).toMatchObject({ kind: "office", pictures: true, problem: null });
    expect(await loadArrival(admin, text)).toMatchObject({ state: "ready" });
  });

  test("that is rubbish, locked or a bomb stays what it is, says so, and stops nobody", async () => {
    const cut = Buffer.from(await odt("<text:p>cut</text:p>")).subarray(0, 300);
    const broken = await takeAndLook(admin, "cut.odt", cut);
    expect((await loadView(await hashOf(broken)))?.pictures).toBe(false);
    const bomb = new JSZip();
    bomb.file("mimetype", "application/vnd.oasis.opendocument.text", { compression: "STORE" });
    for (let i = 0; i < 10_050; i++) bomb.file(`Pictures/${i}`, "x");
    const bytes = await bomb.generateAsync({ type: "uint8array", compression: "DEFLATE" });
    const began = Date.now();
    const id = await takeAndLook(admin, "bomb.odt", bytes);
    expect(Date.now() - began).toBeLessThan(60_000);
    expect(await loadView(await hashOf(id))).toMatchObject({ pictures: false, problem: { code: "not-readable" } });
    // Its turn is over: the next one is laid out as ever. What a process left that was killed over it goes.
    const next = await takeText(admin, "next.odt", await odt("<text:p>After the bomb</text:p>"));
    const sha256 = await hashOf(next);
    const left = path.join(picturesFolder(), sha256.slice(0, 2), sha256, "laying-out-dead");
    await mkdir(left, { recursive: true });
    const long = new Date(Date.now() - 3_600_000);
    await utimes(left, long, long);
    await lookAt(next);
    expect(await textOf(next)).toContain("After the bomb");
    expect((await readdir(path.dirname(must(await layOut(sha256))))).filter((n) => n.startsWith("laying-out"))).toEqual([]);
  }, 120_000);
});

describe("A hostile office file", () => {
  test("reads no file of ours, calls nobody and runs none of its macros", async () => {
    let calls = 0;
    const server = createServer((_, answer) => {
      calls++;
      answer.end("<html>from outside</html>");
    });
    await new Promise<void>((go) => server.listen(0, "127.0.0.1", go));
    const outside = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    await writeFile("/tmp/amber-secret.txt", "CANARY-IN-A-FILE");
    const macro =
      'Sub Main\nThisComponent.Text.insertString(ThisComponent.Text.getStart(), "MACRO RAN", False)\nOpen "/out/ran.txt" For Output As #1\nPrint #1, "ran"\nClose #1\nEnd Sub';
    const listen = (event: string): string =>
      `<script:event-listener script:language="ooo:script" script:event-name="${event}" xlink:href="vnd.sun.star.script:Standard.Module1.Main?language=Basic&amp;location=document" xlink:type="simple"/>`;
    try {
      const frame = (href: string): string =>
        `<text:p><draw:frame svg:width="5cm" svg:height="5cm"><draw:image xlink:href="${href}" xlink:type="simple" xlink:actuate="onLoad"/></draw:frame></text:p>`;
      const section = (href: string, name: string): string =>
        `<text:section text:name="${name}"><text:section-source xlink:href="${href}" xlink:type="simple"/><text:p>kept</text:p></text:section>`;
      const id = await takeAndLook(
        admin,
        "links.odt",
        await odt(
          `<text:p>Survey</text:p>${section("file:///tmp/amber-secret.txt", "a")}${section("file:///etc/passwd", "b")}${section(`${outside}/page.html`, "c")}${frame(`${outside}/pixel.png`)}${frame("file:///etc/hostname")}`,
          `<office:scripts><office:event-listeners>${listen("dom:load")}${listen("office:load-finished")}${listen("office:new")}</office:event-listeners></office:scripts>`,
          {
            "Basic/script-lc.xml": `${xml}<library:libraries xmlns:library="http://openoffice.org/2000/library" xmlns:xlink="http://www.w3.org/1999/xlink"><library:library library:name="Standard" library:link="false"/></library:libraries>`,
            "Basic/Standard/script-lb.xml": `${xml}<library:library xmlns:library="http://openoffice.org/2000/library" library:name="Standard" library:readonly="false" library:passwordprotected="false"><library:element library:name="Module1"/></library:library>`,
            "Basic/Standard/Module1.xml": `${xml}<script:module xmlns:script="http://openoffice.org/2000/script" script:name="Module1" script:language="StarBasic">${macro.replaceAll('"', "&quot;")}</script:module>`,
          },
        ),
      );
      const text = await textOf(id);
      expect(text).toContain("Survey");
      expect(text).not.toContain("CANARY");
      expect(text).not.toContain("root:");
      expect(text).not.toContain("from outside");
      expect(text).not.toContain("MACRO RAN");
      expect(calls).toBe(0);
    } finally {
      await new Promise((go) => server.close(go));
    }
  }, 60_000);

  test("finds a fresh profile whatever the one before did to its own", async () => {
    const names = await readdir(picturesFolder());
    expect(names.filter((n) => n.startsWith("office-profile"))).toEqual(["office-profile"]);
  });
});

test("documents that arrive together are laid out one after the other, each once", async () => {
  const ids = await Promise.all(
    [1, 2].map(async (n) => takeText(admin, `letter ${n}.odt`, await odt(`<text:p>Letter number ${n}</text:p>`), { key: `together ${n}` })),
  );
  const hashes = await Promise.all(ids.map(hashOf));
  const made = await Promise.all([...hashes, ...hashes].map((h) => layOut(h)));
  expect(made.every((m) => m.ok)).toBe(true);
}, 60_000);
