import { execFile } from "node:child_process";
import { randomBytes } from "node:crypto";
import { mkdir, readdir, readFile, writeFile } from "node:fs/promises";
import { createRequire } from "node:module";
import path from "node:path";
import { promisify } from "node:util";
import { PDFDocument, StandardFonts } from "@cantoo/pdf-lib";
import { chromium } from "@playwright/test";
import type pg from "pg";
import sharp from "sharp";
import { prepareZXingModule, readBarcodes } from "zxing-wasm/reader";
import { drawPdf } from "#scenario/papers/draw-pdf.ts";
import { scanPages } from "#scenario/papers/draw-scan.ts";
import { chance } from "#scenario/random.ts";
import type { Grey } from "#core/pages/grey.ts";
import { drawCode } from "#server/codes/draw-code.ts";
import { findAlike } from "#server/arrivals/find-same.ts";
import { sideBySide } from "#server/jobs/side-by-side.ts";
import { parsePgm } from "#server/reading/page-raster.ts";
import { readCodes } from "#server/reading/read-codes.ts";
import { readWords } from "#server/reading/read-words.ts";
import { chromiumFlags, chromiumPath } from "../e2e/support/chromium.ts";
import type { Call } from "./call.ts";
import { nothingWaits, percentile, print, seconds, short, sized } from "./measure.ts";
import { signedIn } from "./signed-in.ts";

const run = promisify(execFile);
const SPLIT_PAGES = sized(500, 20);
const SPLIT_PARTS = sized(100, 4);
const SPLIT_ROUNDS = sized(6, 2);
const CODE_PAGES = sized(24, 2);
const WORD_PAGES = sized(24, 2);
const WORD_ROUND = sized(4, 2);
const CORES = 2;
const BUNDLE_PAGES = sized(1000, 30);

/** Pages with a paragraph each. */
async function manyPages(count: number, salt = ""): Promise<Uint8Array> {
  const pdf = await PDFDocument.create();
  const font = await pdf.embedFont(StandardFonts.Helvetica);
  for (let n = 1; n <= count; n++) {
    const page = pdf.addPage([595, 842]);
    for (let line = 0; line < 40; line++)
      page.drawText(`${salt}Page ${n}, line ${line}: crates of langoustine for Skarra, berth ${(n * 7 + line) % 60}`, {
        x: 50,
        y: 790 - line * 18,
        size: 10,
        font,
      });
  }
  return pdf.save();
}

/** Parts of this bench, each measured by itself when it is named; splitting takes most of the time, since thousands of pages are looked at for it. */
export const pageParts = ["split", "codes", "words", "bundle"] as const;

/** Splitting, barcodes, words off pictures: each beside the bare tool on the same pages in the same run; and a thousand pages on the bench. */
export async function benchPages(
  call: Call,
  client: pg.Client,
  folder: string,
  url: string,
  wanted: (part: (typeof pageParts)[number]) => boolean,
): Promise<void> {
  const work = path.join(folder, "bench-pages");
  await mkdir(work, { recursive: true });
  await nothingWaits(client);
  if (wanted("split")) await benchSplit(call, client, work);
  if (wanted("codes")) await benchCodes();
  // What was taken apart has been looked at by the worker, too.
  await nothingWaits(client);
  if (wanted("words")) await benchWords(work);
  if (wanted("bundle")) await benchBundle(call, folder, url);
}

async function upload(call: Call, fileName: string, bytes: Uint8Array): Promise<string> {
  const { id } = await call.upload(fileName, bytes, "general");
  for (;;) {
    const now = await call.get<{ state: string }>(`/arrivals/${id}`);
    if (now.state === "ready" || now.state === "failed") return id;
    await new Promise((r) => setTimeout(r, 500));
  }
}

async function benchSplit(call: Call, client: pg.Client, work: string): Promise<void> {
  const bundles: { readonly id: string; readonly file: string }[] = [];
  for (let n = 0; n < SPLIT_ROUNDS; n++) {
    // Each says something else: what is known by its hash would not be made again.
    const bytes = await manyPages(SPLIT_PAGES, `bundle ${n}, `);
    const file = path.join(work, `split-${n}.pdf`);
    await writeFile(file, bytes);
    bundles.push({ file, id: await upload(call, `split-${n}.pdf`, bytes) });
  }
  // They are taken apart as a clerk does it: when their pages have been looked at.
  await nothingWaits(client);
  const each = SPLIT_PAGES / SPLIT_PARTS;
  const parts = Array.from({ length: SPLIT_PARTS }, (_, p) => ({ pages: Array.from({ length: each }, (_x, i) => p * each + i + 1) }));
  const [bare, singles, ours]: [number[], number[], number[]] = [[], [], []];
  for (const { id, file } of bundles) {
    bare.push(await seconds(() => run("qpdf", [`--split-pages=${each}`, file, path.join(work, "out-%d.pdf")])));
    singles.push(await seconds(() => run("qpdf", ["--split-pages", file, path.join(work, "single-%d.pdf")])));
    ours.push(await seconds(() => call.post(`/arrivals/${id}/split`, { parts })));
    await nothingWaits(client);
  }
  // The first one finds a server that has never taken anything apart.
  const later = (all: readonly number[]): number => percentile(all.slice(1), 0.5);
  print("split", {
    pages: SPLIT_PAGES,
    parts: SPLIT_PARTS,
    rounds: SPLIT_ROUNDS - 1,
    bareSeconds: short(later(bare)),
    bareSinglePagesSeconds: short(later(singles)),
    oursSeconds: short(later(ours)),
    ratio: short(later(bare) / later(ours)),
    ratioToSinglePages: short(later(singles) / later(ours)),
    ratios: bare.map((b, n) => short(b / (ours[n] ?? 0))),
    ratioFirst: short((bare[0] ?? 0) / (ours[0] ?? 0)),
  });
}

/** Invoices as a scanner sees them, half of them with a barcode. */
async function scannedPages(count: number): Promise<readonly Grey[]> {
  const pages: Grey[] = [];
  for (let n = 0; n < count; n++) {
    const pdf = await PDFDocument.load(
      await drawPdf(
        {
          heading: "Invoice",
          sender: { name: "Tarrin Marine Fuels", address: "Port Halven" },
          recipient: { name: "Merrowick Ferries Ltd", address: "Harbour House" },
          number: `77-${n}`,
          date: "2026-11-18",
          references: [["Your order", "PO-6127"]],
          lines: Array.from({ length: 18 }, (_, i) => ({ text: `Marine gas oil ${i}`, quantity: 6400, unit: "l", price: 71.2 })),
          money: { net: "4556.80", tax: "911.36", total: "5468.16", currency: "GBP" },
        },
        n % 12,
      ),
    );
    if (n % 2 === 0) {
      const code = await pdf.embedPng(await drawCode("code128", `B-2041${n % 10}`));
      pdf.getPage(0).drawImage(code, { x: 330, y: 60, width: 170, height: 40 });
    }
    const [jpeg] = await scanPages(await pdf.save(), chance(n + 1), 1);
    const grey = parsePgm(await greyPgm(jpeg ?? Buffer.alloc(0)));
    if (!grey) throw new Error("no picture");
    pages.push({ ...grey, data: new Uint8Array(grey.data) });
  }
  return pages;
}

async function benchCodes(): Promise<void> {
  const pages = await scannedPages(CODE_PAGES);
  const wasm = await readFile(createRequire(import.meta.url).resolve("zxing-wasm/reader/zxing_reader.wasm"));
  await prepareZXingModule({
    overrides: { wasmBinary: wasm.buffer.slice(wasm.byteOffset, wasm.byteOffset + wasm.byteLength) },
    fireImmediately: true,
  });
  const bareRead = (grey: Grey) => {
    const rgba = new Uint8ClampedArray(grey.data.length * 4);
    for (let i = 0, j = 0; i < grey.data.length; i++, j += 4) {
      rgba[j] = rgba[j + 1] = rgba[j + 2] = grey.data[i] ?? 0;
      rgba[j + 3] = 255;
    }
    return readBarcodes(
      { data: rgba, width: grey.width, height: grey.height, colorSpace: "srgb" },
      { tryHarder: true, maxNumberOfSymbols: 50 },
    );
  };
  // Once each to warm up.
  await bareRead(pages[0] as Grey);
  await readCodes(pages[0] as Grey);
  let [bareFound, found] = [0, 0];
  const bare = await seconds(async () => {
    for (const page of pages) bareFound += (await bareRead(page)).length;
  });
  const ours = await seconds(async () => {
    for (const page of pages) found += (await readCodes(page)).length;
  });
  print("barcodes", {
    pages: CODE_PAGES,
    bareMsPerPage: short((bare * 1000) / CODE_PAGES),
    oursMsPerPage: short((ours * 1000) / CODE_PAGES),
    ratio: short(ours / bare),
    bareFound,
    found,
  });
}

async function greyPgm(jpeg: Buffer): Promise<Buffer> {
  const { data, info } = await sharp(jpeg).toColourspace("b-w").raw().toBuffer({ resolveWithObject: true });
  return Buffer.concat([Buffer.from(`P5\n${info.width} ${info.height}\n255\n`), data]);
}

async function benchWords(work: string): Promise<void> {
  const pages = await scannedPages(WORD_PAGES);
  for (const [i, page] of pages.entries())
    await writeFile(path.join(work, `w-${i}.pgm`), Buffer.concat([Buffer.from(`P5\n${page.width} ${page.height}\n255\n`), page.data]));
  const env = { ...process.env, OMP_THREAD_LIMIT: "1" };
  // At the priority that we read at, so that whatever else runs takes the same from both.
  const bareRun = (i: number) =>
    run(
      "nice",
      ["-n", "10", "tesseract", path.join(work, `w-${i}.pgm`), "stdout", "-l", "eng+deu+fra", "--dpi", "200", "--psm", "3", "tsv"],
      {
        env,
        maxBuffer: 64 * 1024 * 1024,
      },
    );
  await bareRun(0);
  const numbers = pages.map((_, i) => i);
  let [words, bare, ours] = [0, 0, 0];
  // A few by one, the same by the other: where the machine is now faster, now slower, both meet the same of it.
  for (let at = 0; at < WORD_PAGES; at += WORD_ROUND) {
    const some = numbers.slice(at, at + WORD_ROUND);
    bare += await seconds(() => sideBySide(some, CORES, (i) => bareRun(i)));
    ours += await seconds(() =>
      sideBySide(some, CORES, async (i) => {
        words += (await readWords(pages[i] as Grey)).words.length;
      }),
    );
  }
  print("words off pictures", {
    pages: WORD_PAGES,
    cores: CORES,
    barePagesPerSecond: short(WORD_PAGES / bare),
    oursPagesPerSecond: short(WORD_PAGES / ours),
    ratio: short(bare / ours),
    words,
  });
}

/** A thousand pages on the bench in a real browser: the first pages, all of them while scrolling, and the memory of the page. */
async function benchBundle(call: Call, folder: string, url: string): Promise<void> {
  const { id } = await call.upload("thousand.pdf", await manyPages(BUNDLE_PAGES), "general");
  // Not until all of it was looked at: the bench is there as soon as its pages are known.
  const headers = await keyOf(folder);
  while ((await fetch(`${url}/api/v1/bench?arrivals=${id}`, { headers })).status !== 200) await new Promise((r) => setTimeout(r, 300));
  const browser = await chromium.launch({ executablePath: chromiumPath, args: [...chromiumFlags] });
  try {
    const page = await signedIn(browser, url, folder, "/bench");
    const loaded = () =>
      page.waitForFunction(() => {
        const shown = [...document.querySelectorAll<HTMLImageElement>(".bench-picture img")].filter(
          (i) => i.getBoundingClientRect().top < innerHeight && i.getBoundingClientRect().bottom > 60,
        );
        return shown.length >= 5 && shown.every((i) => i.complete && i.naturalWidth > 0);
      });
    const began = performance.now();
    await page.goto(`/bench?arrivals=${id}`);
    await loaded();
    const first = (performance.now() - began) / 1000;
    const scrolls: number[] = [];
    for (let at = 0; at <= 40; at++) {
      const start = performance.now();
      await page.evaluate((share) => {
        const box = document.querySelector(".bench");
        if (box) box.scrollTop = (box.scrollHeight - box.clientHeight) * share;
      }, at / 40);
      await page.waitForTimeout(30);
      await loaded();
      scrolls.push(performance.now() - start);
    }
    const session = await page.context().newCDPSession(page);
    await session.send("Performance.enable");
    const metrics = (await session.send("Performance.getMetrics")).metrics;
    const heap = metrics.find((m) => m.name === "JSHeapUsedSize")?.value ?? 0;
    print("a thousand pages on the bench", {
      firstPagesSeconds: short(first),
      scrollMedianMs: short([...scrolls].sort((a, b) => a - b)[20] ?? 0),
      scrollSlowestMs: short(Math.max(...scrolls)),
      heapMegabytes: short(heap / 1024 / 1024),
      rendererMegabytes: short((await largestRenderer()) / 1024),
    });
  } finally {
    await browser.close();
  }
}

async function keyOf(folder: string): Promise<Record<string, string>> {
  const { keys } = JSON.parse(await readFile(path.join(folder, "credentials.json"), "utf8")) as { keys: { administrator: string } };
  return { authorization: `Bearer ${keys.administrator}` };
}

/** Proportional memory of the largest renderer of this machine, kilobytes. */
async function largestRenderer(): Promise<number> {
  let most = 0;
  for (const pid of (await readdir("/proc")).filter((n) => /^\d+$/.test(n))) {
    const line = await readFile(`/proc/${pid}/cmdline`, "utf8").catch(() => "");
    if (!line.includes("--type=renderer")) continue;
    const roll = await readFile(`/proc/${pid}/smaps_rollup`, "utf8").catch(() => "");
    most = Math.max(most, Number(/^Pss:\s+(\d+)/m.exec(roll)?.[1] ?? 0));
  }
  return most;
}

/** What is nearly the same among very many, by the very query that lists use. */
export async function benchAlike(client: pg.Client, count: number): Promise<void> {
  await client.query("drop index content_print_bands");
  await client.query(
    `insert into content (sha256, size_bytes, kind, state, looked)
    select encode(sha256(('near ' || n)::bytea), 'hex'), 1000, 'pdf', 'read', 'yes' from generate_series(1, $1::int) n on conflict do nothing`,
    [count],
  );
  // Eighty numbers for each of a million: by a hash that is there in a moment.
  const numbers = (many: number, salt: number): string =>
    `array[${Array.from({ length: many }, (_, i) => `hashint8extended(n, ${salt + i})::bit(32)::int`).join(",")}]`;
  await client.query(
    `insert into content_print (sha256, text_hash, least, bands)
     select encode(sha256(('near ' || n)::bytea), 'hex'), hashint8extended(n, 7), ${numbers(64, 100)}, ${numbers(16, 1000)}
     from generate_series(1, $1::int) n on conflict do nothing`,
    [count],
  );
  await client.query("create index content_print_bands on content_print using gin (bands)");
  await client.query("analyze content_print");
  // One that shares a band and most of its least hashes with one of them.
  const target = "f".repeat(60) + randomBytes(2).toString("hex");
  await client.query("insert into content (sha256, size_bytes, kind, state, looked) values ($1, 1, 'pdf', 'read', 'yes')", [target]);
  await client.query(
    `insert into content_print (sha256, text_hash, least, bands) select $1, text_hash + 1, least[1:60] || array[1,2,3,4], bands from content_print
     where sha256 = encode(sha256(('near ' || 777)::bytea), 'hex')`,
    [target],
  );
  const times: number[] = [];
  let found = 0;
  for (let i = 0; i < 25; i++) {
    const began = performance.now();
    found = (await findAlike([target])).get(target)?.size ?? 0;
    times.push(performance.now() - began);
  }
  times.sort((a, b) => a - b);
  print("nearly the same", { contents: count, found, p50Ms: short(times[12] ?? 0), slowestMs: short(times.at(-1) ?? 0) });
}
