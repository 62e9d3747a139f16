import { execFile } from "node:child_process";
import { mkdtemp, readdir, readFile, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import { PDFDocument, PDFName, StandardFonts } from "@cantoo/pdf-lib";
import { and, eq, inArray, sql } from "drizzle-orm";
import sharp from "sharp";
import { textOfWords } from "#core/pages/page-text.ts";
import { type ArrivalId, parseSha256 } from "#core/shared/brand.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { setAside } from "../arrivals/change-state.ts";
import { arrival } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook, takeText } from "../db/test-world.ts";
import { localFile } from "../documents/local-file.ts";
import { fingerprintThese } from "../matching/fingerprint-contents.ts";
import { picturesFolder } from "../ports/adapters.ts";
import { content, contentPrint } from "../documents/tables.ts";
import { fileAway } from "../documents/file-away.ts";
import { loadDocument } from "../documents/load-document.ts";
import type { Actor } from "../people/load-actor.ts";
import { pagePicture } from "../reading/page-picture.ts";
import { loadBody } from "../reading/load-view.ts";
import { loadPages } from "../reading/page-rows.ts";
import { BODY_MAX, PAGE_BREAK } from "../reading/read-outcome.ts";
import { defaultLimits } from "#core/arrivals/limits.ts";
import { saveLimits } from "../settings/load-settings.ts";
import { listLines } from "../timeline/list-lines.ts";
import { rangesOf } from "./compose-file.ts";
import { loadBench } from "./load-bench.ts";
import { loadSourcePages } from "./load-sources.ts";
import { putBack } from "./put-back.ts";
import { arrivalPage } from "./tables.ts";
import { apartSchema, splitArrival, takeApart } from "./take-apart.ts";

const run = promisify(execFile);
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let light: Actor;
let auditor: Actor;
const order = { type: "purchaseOrder", key: "PO-6127", company: "MF" };
const filing = (number: string) => ({ documentType: "supplierInvoice", clips: [order], properties: { documentNumber: number } });
beforeAll(async () => {
  world = await makeSetUpDatabase();
  [admin, clerk, light, auditor] = (await Promise.all(
    ["isla.rowe", "tam.corrigall", "pell.ashby", "ferris.dunmore"].map((n) => actorByMail(`${n}@merrowick.example`)),
  )) as [Actor, Actor, Actor, Actor];
  await putRecord(admin, "MF", "supplierAccount", "S-2004", { title: "Tarrin Marine Fuels", fields: { name: "Tarrin Marine Fuels" } });
  await putRecord(admin, "MF", "purchaseOrder", "PO-6127", {
    title: "Fuel",
    date: "2026-11-02",
    parent: { type: "supplierAccount", key: "S-2004" },
  });
  await putRecord(admin, "MF", "freightBooking", "B-20418", { title: "Fish to Halven" });
});
afterAll(() => world.end());

/** Small pages, since each is drawn and looked at: a quarter of a sheet, points. */
const [WIDTH, HEIGHT] = [297, 420];
/** A bundle: a page for each text, with a link on the first and a form field on the last. */
async function bundle(...texts: readonly string[]): Promise<Uint8Array> {
  const pdf = await PDFDocument.create();
  const font = await pdf.embedFont(StandardFonts.Helvetica);
  for (const text of texts) {
    const page = pdf.addPage([WIDTH, HEIGHT]);
    text.split("\n").forEach((line, i) => page.drawText(line, { x: 30, y: HEIGHT - 40 - i * 20, size: 12, font }));
  }
  const first = pdf.getPage(0);
  first.node.set(
    PDFName.of("Annots"),
    pdf.context.obj([
      {
        Type: "Annot",
        Subtype: "Link",
        Rect: [30, 200, 200, 220],
        Border: [0, 0, 0],
        A: { Type: "Action", S: "URI", URI: pdf.context.obj("x") },
      },
    ]),
  );
  const field = pdf.getForm().createTextField("agreed.by");
  field.setText("Isla");
  field.addToPage(pdf.getPage(texts.length - 1), { x: 30, y: 60, width: 200, height: 24, font });
  return pdf.save();
}
let nth = 0;
/** Words enough for a page to count as having its own text; never the same twice. */
const page = (text: string): string => `${text}\nthis page has words enough of its own ${nth++}`;
const hashOf = async (id: string) => parseSha256((await loadArrival(admin, id as ArrivalId))?.sha256 ?? "");
const fileOf = async (id: string): Promise<string> => localFile(await hashOf(id));
const textOf = async (file: string): Promise<string> => (await run("pdftotext", ["-layout", file, "-"])).stdout;
const pages = (source: number, ...numbers: readonly number[]) => numbers.map((n) => ({ source, page: n, turn: 0 as const }));
const wish = (value: unknown) => apartSchema.parse(value);

describe("Taking a bundle apart", () => {
  test("its pages come out as they were, text, links and form fields with them; the original stays in the register", async () => {
    const bytes = await bundle(page("Invoice one"), page("Invoice one, overleaf"), page("Delivery note"));
    const id = await takeAndLook(admin, "bundle.pdf", bytes, { queue: "payables" });
    const done = must(
      await takeApart(admin, wish({ sources: [{ arrival: id }], parts: [{ pages: pages(0, 1, 2) }, { pages: pages(0, 3) }] })),
    );
    expect(done.parts.map((p) => p.fileName)).toEqual(["bundle, pages 1–2.pdf", "bundle, page 3.pdf"]);
    const [one, two] = await Promise.all(done.parts.map((p) => fileOf(p.id)));
    expect(await textOf(one ?? "")).toContain("Invoice one, overleaf");
    expect(await textOf(one ?? "")).not.toContain("Delivery note");
    const first = await PDFDocument.load(await readFile(one ?? ""));
    expect(first.getPage(0).node.Annots()?.size()).toBe(1);
    const second = await PDFDocument.load(await readFile(two ?? ""));
    expect(second.getForm().getTextField("agreed.by").getText()).toBe("Isla");
    // What is not among its pages is nowhere in the file, not even unseen.
    expect((await readFile(one ?? "")).includes("agreed.by")).toBe(false);
    expect(await loadArrival(admin, id)).toMatchObject({ state: "split", endReason: "2 documents", children: done.parts.map((p) => p.id) });
    expect((await readFile(await fileOf(id))).equals(Buffer.from(bytes))).toBe(true);
    const lines = await listLines(admin, { arrivalId: id });
    expect(lines.some((l) => l.verb === "split")).toBe(true);
    expect(
      await db()
        .select()
        .from(arrivalPage)
        .where(eq(arrivalPage.arrivalId, done.parts[0]?.id ?? "")),
    ).toMatchObject([
      { number: 1, fromArrival: id, fromPage: 1 },
      { number: 2, fromArrival: id, fromPage: 2 },
    ]);
  });
  test("what was read is known of the parts at once, with boxes on turned pages where they stand", async () => {
    const id = await takeAndLook(admin, "turned.pdf", await bundle(page("Alpha"), page("Beta")));
    const done = must(
      await takeApart(
        admin,
        wish({ sources: [{ arrival: id }], parts: [{ pages: pages(0, 2) }, { pages: [{ source: 0, page: 1, turn: 90 }] }] }),
      ),
    );
    const made = await loadArrival(admin, done.parts[1]?.id as ArrivalId);
    expect(made).toMatchObject({ state: "ready", pages: 1 });
    const row = (await loadPages(db(), await hashOf(made?.id ?? "")))[0];
    expect(row).toMatchObject({ widthPoints: HEIGHT, heightPoints: WIDTH });
    const told = await run("pdftotext", ["-bbox", await fileOf(made?.id ?? ""), "-"]);
    const box = /xMin="([\d.]+)" yMin="([\d.]+)" xMax="[\d.]+" yMax="[\d.]+">Alpha</.exec(told.stdout);
    const word = row?.words.find((w) => w.text === "Alpha");
    expect(word?.box[0]).toBeCloseTo(Number(box?.[1]), 0);
    expect(word?.box[1]).toBeCloseTo(Number(box?.[2]), 0);
  });
  test.each([
    ["by the text that was kept of the whole", "", []],
    ["past the end of a text that was cut", "", [3]],
    ["by their words while not all was looked at", "going", [1, 2, 3]],
  ] as const)("what pages say is known %s", async (_, looked, asked) => {
    const sha256 = await hashOf(await takeAndLook(admin, "said.pdf", await bundle(`one\n${looked}${asked.length}`, "two\nlines", "three")));
    const pages = await loadPages(db(), sha256);
    // As long as a text that is cut can be, with all of the first two pages in it.
    const beginning = pages.slice(0, 2).map((p) => textOfWords(p.words));
    if (asked.length === 1)
      await db()
        .update(content)
        .set({ body: [...beginning, ""].join(PAGE_BREAK).padEnd(BODY_MAX, "x") })
        .where(eq(content.sha256, sha256));
    if (looked !== "") await db().update(content).set({ looked }).where(eq(content.sha256, sha256));
    const source = { arrival: null, document: null, fileName: "said.pdf", sha256, kind: "pdf", pageCount: 3, problem: null } as const;
    const known = await loadSourcePages(db(), source, new Set());
    // What the text of the whole holds is left there.
    expect(known.map((p) => p.text)).toEqual(
      pages.map((p) => ((asked as readonly number[]).includes(p.number) ? textOfWords(p.words) : null)),
    );
    expect(known.filter((p) => p.row !== null).map((p) => p.number)).toEqual(asked);
    expect((await loadSourcePages(db(), source, new Set([2]))).find((p) => p.number === 2)?.row).toEqual(pages[1]);
  });
  test.each(["whole", "cut"])(
    "parts say what their pages say, in their order, also turned ones, when the text of the bundle is %s",
    async (held) => {
      const id = await takeAndLook(
        admin,
        `texts-${held}.pdf`,
        await bundle(page(`Uist ${held}`), page("Vatersay"), page("Wiay"), page("Yell")),
      );
      const sha256 = await hashOf(id);
      const said = (await loadPages(db(), sha256)).map((p) => textOfWords(p.words));
      if (held === "cut")
        await db()
          .update(content)
          .set({ body: [...said.slice(0, 2), ""].join(PAGE_BREAK).padEnd(BODY_MAX, "x") })
          .where(eq(content.sha256, sha256));
      const done = must(
        await takeApart(
          admin,
          wish({
            sources: [{ arrival: id }],
            parts: [
              {
                pages: [
                  { source: 0, page: 4 },
                  { source: 0, page: 1, turn: 90 },
                ],
              },
              { pages: pages(0, 2) },
              { pages: [{ source: 0, page: 3, turn: 180 }] },
            ],
          }),
        ),
      );
      const bodies = await Promise.all(done.parts.map(async (p) => loadBody(await hashOf(p.id))));
      expect(bodies).toEqual([[said[3], said[0]].join(PAGE_BREAK), said[1], said[2]]);
      expect(await loadArrival(admin, done.parts[0]?.id as ArrivalId)).toMatchObject({ state: "ready", pages: 2 });
    },
  );
  test("that there was no space for what is made is said so, and nothing is entered", async () => {
    const id = await takeAndLook(admin, "full.pdf", await bundle(page("Full"), page("Disk")));
    const [folder, before] = [await mkdtemp(path.join(os.tmpdir(), "amber-full-")), process.env["PATH"]];
    await writeFile(path.join(folder, "qpdf"), "#!/bin/bash\necho 'qpdf: write: No space left on device' >&2\nexit 2\n", { mode: 0o755 });
    process.env["PATH"] = `${folder}:${before}`;
    try {
      expect(await splitArrival(admin, id, [{ pages: [1] }, { pages: [2] }])).toMatchObject({ refusal: { code: "no-space" } });
    } finally {
      process.env["PATH"] = before;
      await rm(folder, { recursive: true, force: true });
    }
    expect(await loadArrival(admin, id)).toMatchObject({ state: "ready" });
    must(await splitArrival(admin, id, [{ pages: [1] }, { pages: [2] }]));
  });
  test("two who take the same apart at once, the other way round: one does, the other is told", async () => {
    const id = await takeAndLook(admin, "race.pdf", await bundle(...Array.from({ length: 12 }, (_, i) => page(`Race ${i}`))));
    const single = Array.from({ length: 12 }, (_, i) => ({ pages: pages(0, i + 1) }));
    const done = await Promise.all(
      [single, [...single].reverse()].map((parts) => takeApart(admin, wish({ sources: [{ arrival: id }], parts }))),
    );
    expect(done.map((d) => (d.ok ? "done" : d.refusal.code)).sort()).toEqual(["done", "stale"]);
    const made = await db().select({ state: arrival.state }).from(arrival).where(eq(arrival.parentId, id));
    expect(made.map((m) => m.state)).toEqual(Array.from({ length: 12 }, () => "ready"));
  });
  test("what the parts say as numbers is found after them, of all of them and of nothing else", async () => {
    const id = await takeAndLook(admin, "prints.pdf", await bundle(page("Gamma"), page("Delta"), page("Epsilon")));
    const done = must(await splitArrival(admin, id, [{ pages: [1] }, { pages: [2, 3] }]));
    const hashes = await Promise.all(done.parts.map((p) => hashOf(p.id)));
    const { rows } = await db().execute<{ payload: { contents: string[] } }>(
      sql`select payload from graphile_worker._private_jobs where payload::jsonb->'contents' ? ${hashes[0]}`,
    );
    expect(rows.map((r) => r.payload.contents)).toEqual([hashes]);
    await fingerprintThese(hashes);
    const kept = await db().select().from(contentPrint).where(inArray(contentPrint.sha256, hashes));
    // A page with fewer than twelve words says too little.
    expect(kept.map((k) => [k.sha256, k.bands.length > 0]).sort()).toEqual(
      [[hashes[0], false] as const, [hashes[1], true] as const].sort(),
    );
  });
  test("parts are filed in one go; one that cannot be waits and says why", async () => {
    const id = await takeAndLook(admin, "five.pdf", await bundle(page("A"), page("B"), page("C")), { queue: "payables" });
    const done = must(
      await takeApart(
        clerk,
        wish({
          sources: [{ arrival: id }],
          parts: [
            { pages: pages(0, 1), file: filing("90-1") },
            { pages: pages(0, 2), file: { ...filing("90-2"), clips: [{ type: "purchaseOrder", key: "PO-0", company: "MF" }] } },
          ],
          dropped: [{ source: 0, page: 3 }],
        }),
      ),
    );
    expect(done.parts[0]).toMatchObject({ title: "Supplier invoice 90-1", problem: null });
    expect(done.parts[0]?.path).toContain("PO-6127");
    expect(done.parts[1]).toMatchObject({ code: null, problem: "Unknown record: purchaseOrder PO-0" });
    expect((await loadArrival(admin, done.parts[1]?.id as ArrivalId))?.state).toBe("ready");
    expect((await loadArrival(admin, id))?.endReason).toBe("2 documents, without page 3");
  });
  test("the same again has the same result, and nothing twice (promise 11)", async () => {
    const id = await takeAndLook(admin, "again.pdf", await bundle(page("A"), page("B")), { queue: "payables" });
    const asked = wish({
      sources: [{ arrival: id }],
      parts: [{ pages: pages(0, 1), file: filing("91-1") }, { pages: pages(0, 2) }],
    });
    const [first, second] = [must(await takeApart(clerk, asked)), must(await takeApart(clerk, asked))];
    expect(second.parts.map((p) => [p.id, p.code])).toEqual(first.parts.map((p) => [p.id, p.code]));
    const count = await db().select({ id: arrival.id }).from(arrival).where(eq(arrival.parentId, id));
    expect(count).toHaveLength(2);
  });
  test("two people at once: one takes it apart, the other is told", async () => {
    const id = await takeAndLook(admin, "race.pdf", await bundle(page("A"), page("B")), { queue: "payables" });
    const outcomes = await Promise.all([
      takeApart(clerk, wish({ sources: [{ arrival: id }], parts: [{ pages: pages(0, 1) }, { pages: pages(0, 2) }] })),
      takeApart(admin, wish({ sources: [{ arrival: id }], parts: [{ pages: pages(0, 2) }, { pages: pages(0, 1) }] })),
    ]);
    expect(outcomes.filter((o) => o.ok)).toHaveLength(1);
    expect(outcomes.find((o) => !o.ok)).toMatchObject({ refusal: { code: "stale" } });
    expect(await db().select({ id: arrival.id }).from(arrival).where(eq(arrival.parentId, id))).toHaveLength(2);
  });
  test.each([
    ["a page twice", [[1, 1, 2, 3]], []],
    ["a page nowhere", [[1, 2]], []],
    ["a page that is not there", [[1, 2, 3, 4]], []],
    ["a page kept and dropped", [[1, 2, 3]], [3]],
  ])("%s is refused, and nothing is done", async (_what, parts, dropped) => {
    const id = await takeAndLook(admin, "odd.pdf", await bundle(page("A"), page("B"), page("C")));
    const asked = wish({
      sources: [{ arrival: id }],
      parts: parts.map((p) => ({ pages: pages(0, ...p) })),
      dropped: dropped.map((n) => ({ source: 0, page: n })),
    });
    expect(await takeApart(admin, asked)).toMatchObject({ ok: false, refusal: { code: "bad-input" } });
    expect((await loadArrival(admin, id))?.state).toBe("ready");
  });
  test("through the API's split, pages in no part are left out; the same request again answers the same", async () => {
    const id = await takeAndLook(admin, "api.pdf", await bundle(page("A"), page("B"), page("C")), { queue: "payables" });
    const parts = [{ pages: [3, 1], turn: { "1": 90 as const }, file: filing("92-1") }];
    const first = must(await splitArrival(clerk, id, parts));
    expect(first.parts[0]?.code).toMatch(/^AC-/);
    expect(must(await splitArrival(clerk, id, parts))).toEqual(first);
    expect((await loadArrival(admin, id))?.endReason).toBe("1 document, without page 2");
  });
  test("what one may not see cannot be laid on the bench, nor what has no pages", async () => {
    const id = await takeAndLook(admin, "seen.pdf", await bundle(page("A"), page("B")), { queue: "crew-office" });
    expect(await loadBench(light, [{ arrival: id }])).toMatchObject({ refusal: { code: "not-found" } });
    expect(await splitArrival(light, id, [{ pages: [1] }])).toMatchObject({ ok: false });
    const text = await takeText(admin, "note.txt", "no pages");
    expect(await loadBench(admin, [{ arrival: text }])).toMatchObject({ refusal: { code: "not-for-bench" } });
    const broken = await takeText(admin, "cut.pdf", (await bundle(page("A"))).slice(0, 300));
    expect(await loadBench(admin, [{ arrival: broken }])).toMatchObject({ ok: false });
  });
});

describe("Putting together", () => {
  test("a photograph goes in as it is, a scan with two pages without loss; the sources end as joined", async () => {
    const jpeg = await sharp({ create: { width: 600, height: 400, channels: 3, background: "#936" } })
      .withMetadata({ orientation: 6, density: 150 })
      .jpeg()
      .toBuffer();
    const png = await sharp({ create: { width: 300, height: 500, channels: 3, background: "#369" } })
      .png()
      .toBuffer();
    const [a, b, c] = [
      await takeAndLook(admin, "photo.jpg", jpeg),
      await takeAndLook(admin, "shot.png", png),
      await takeAndLook(admin, "letter.pdf", await bundle(page("Letter"))),
    ];
    const done = must(
      await takeApart(
        admin,
        wish({
          sources: [{ arrival: a }, { arrival: b }, { arrival: c }],
          parts: [{ pages: [...pages(2, 1), ...pages(0, 1), ...pages(1, 1)], fileName: "Damage claim" }],
        }),
      ),
    );
    expect(done.parts[0]?.fileName).toBe("Damage claim.pdf");
    const file = await fileOf(done.parts[0]?.id ?? "");
    // The JPEG's own bytes are in the file.
    expect((await readFile(file)).includes(jpeg.subarray(jpeg.indexOf(Buffer.from([0xff, 0xda]))))).toBe(true);
    const sizes = (await run("pdfinfo", ["-f", "1", "-l", "3", file])).stdout;
    expect(sizes).toMatch(/Page\s+2 rot:\s+90/);
    expect(await Promise.all([a, b, c].map(async (id) => (await loadArrival(admin, id))?.state))).toEqual(["joined", "joined", "joined"]);
  });
  test("an arrival that nothing was done to stays that arrival", async () => {
    const [a, b] = [
      await takeAndLook(admin, "x.pdf", await bundle(page("X"))),
      await takeAndLook(admin, "y.pdf", await bundle(page("Y"), page("Z"))),
    ];
    const done = must(
      await takeApart(
        clerk,
        wish({
          sources: [{ arrival: a }, { arrival: b }],
          parts: [{ pages: pages(0, 1), file: filing("93-1") }, { pages: pages(1, 1) }, { pages: pages(1, 2) }],
        }),
      ),
    );
    expect(done.parts[0]?.id).toBe(a);
    expect(await loadArrival(admin, a)).toMatchObject({ state: "filed", children: [] });
  });
  test("a filed document comes back from the bench as its next version, or as new documents", async () => {
    const id = await takeAndLook(admin, "filed.pdf", await bundle(page("Front"), page("Blank back"), page("Annex")), { queue: "payables" });
    const filed = must(await fileAway(admin, id, filing("94-1")));
    const done = must(
      await takeApart(
        admin,
        wish({
          sources: [{ document: filed.code }],
          parts: [
            { pages: pages(0, 1), version: filed.code },
            { pages: pages(0, 3), file: { documentType: "letter", clips: [order] } },
          ],
          dropped: [{ source: 0, page: 2 }],
        }),
      ),
    );
    expect(done.parts.map((p) => p.problem)).toEqual([null, null]);
    expect(done.parts[0]?.code).toBe(filed.code);
    const document = await loadDocument(admin, filed.code);
    expect(document?.versions).toHaveLength(2);
    // Taking pages out of a document puts them before a whole queue: seeing it is not enough.
    expect(await loadBench(auditor, [{ document: filed.code }])).toMatchObject({ refusal: { code: "not-found" } });
    expect(
      await db()
        .select()
        .from(arrivalPage)
        .where(and(eq(arrivalPage.arrivalId, done.parts[1]?.id ?? ""), eq(arrivalPage.fromPage, 3))),
    ).toHaveLength(1);
  });
});

describe("Putting back", () => {
  test("the arrival waits again as it was, what was made of it is set aside; twice is once", async () => {
    const id = await takeAndLook(admin, "back.pdf", await bundle(page("A"), page("B")));
    const done = must(await splitArrival(admin, id, [{ pages: [1] }, { pages: [2] }]));
    expect(must(await putBack(admin, id)).restored).toEqual([id]);
    expect(await loadArrival(admin, id)).toMatchObject({ state: "ready", endReason: null });
    expect(await loadArrival(admin, done.parts[0]?.id as ArrivalId)).toMatchObject({ state: "setAside", endReason: "split undone" });
    expect((await putBack(admin, id)).ok).toBe(true);
  });
  test("not while one of its documents is filed", async () => {
    const id = await takeAndLook(admin, "kept.pdf", await bundle(page("A"), page("B")), { queue: "payables" });
    must(await splitArrival(clerk, id, [{ pages: [1], file: filing("95-1") }, { pages: [2] }]));
    expect(await putBack(clerk, id)).toMatchObject({ refusal: { code: "still-there" } });
  });
  test("all that went into one document comes back together", async () => {
    const [a, b] = [
      await takeAndLook(admin, "p.pdf", await bundle(page("P")), { queue: "crew-office" }),
      await takeAndLook(admin, "q.pdf", await bundle(page("Q")), { queue: "crew-office" }),
    ];
    must(await takeApart(admin, wish({ sources: [{ arrival: a }, { arrival: b }], parts: [{ pages: [...pages(0, 1), ...pages(1, 1)] }] })));
    expect([...must(await putBack(admin, b)).restored].sort()).toEqual([a, b].sort());
    expect(await putBack(light, a)).toMatchObject({ ok: false });
    const other = await takeText(admin, "never.txt", "never split");
    must(await setAside(admin, other, "junk"));
    expect(await putBack(admin, other)).toMatchObject({ refusal: { code: "stale" } });
  });
});

describe("A bundle longer than one document may be", () => {
  test("is laid on the bench without being read whole, and taken apart there", async () => {
    must(await saveLimits(admin, { ...defaultLimits, pagesMax: 2 }));
    const id = await takeText(admin, "long.pdf", await bundle(page("A"), page("B"), page("C"), page("D")));
    must(await saveLimits(admin, defaultLimits));
    expect(await loadArrival(admin, id)).toMatchObject({ state: "failed", problem: { code: "too-many-pages" } });
    const bench = must(await loadBench(admin, [{ arrival: id }]));
    expect(bench.sources[0]?.pages).toHaveLength(4);
    expect(bench.sources[0]?.pages[0]).toMatchObject({ width: WIDTH, height: HEIGHT });
    const done = must(await splitArrival(admin, id, [{ pages: [1, 2] }, { pages: [3, 4] }]));
    expect((await loadArrival(admin, done.parts[0]?.id as ArrivalId))?.state).toBe("waiting");
  });
});

test("small pictures of a long bundle are made by the dozen, each the right one, and the same as made alone", async () => {
  const id = await takeAndLook(admin, "many.pdf", await bundle(...Array.from({ length: 30 }, (_, i) => page(`${"X".repeat(i + 1)}`))));
  const sha256 = await hashOf(id);
  // What the bench shows first was made as the bundle was read.
  const there = await readdir(path.join(picturesFolder(), sha256.slice(0, 2), sha256));
  expect(there.filter((name) => name.endsWith("-160.jpg"))).toHaveLength(25);
  const made = await Promise.all([2, 3, 14, 29, 30].map((n) => pagePicture(sha256, "pdf", n, 160)));
  expect(made.every((m) => m.ok)).toBe(true);
  const bytes = await Promise.all(made.map((m) => readFile(must(m))));
  expect(new Set(bytes.map((b) => b.toString("base64"))).size).toBe(5);
  const again = must(await pagePicture(sha256, "pdf", 12, 160));
  expect((await readFile(again)).length).toBeGreaterThan(500);
  expect(await pagePicture(sha256, "pdf", 31, 160)).toMatchObject({ refusal: { code: "not-found" } });
});

test("page ranges are written short", () => expect(rangesOf([1, 2, 3, 7, 6, 9, 10])).toBe("1-3,7,6,9-10"));
