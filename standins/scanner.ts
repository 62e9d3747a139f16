/**
 * A stand-in for a network scanner: it has a pile of sample documents, a control page to choose sheets from it and put document in, and it pushes what it
 * scans as one batch to a folder or over HTTP, as such machines do. Pages come out as pictures: a little turned, with grain, blank backs included when
 * both sides are scanned. It does not imitate any machine's own menus, and has no sheet feeder that jams.
 */
import { execFile } from "node:child_process";
import { mkdir, mkdtemp, readdir, readFile, rename, rm, writeFile } from "node:fs/promises";
import http from "node:http";
import os from "node:os";
import path from "node:path";
import { parseArgs, promisify } from "node:util";
import { PDFDocument } from "@cantoo/pdf-lib";
import { z } from "zod";
import { scanPages, scanPdf, scanTiff } from "../scenario/papers/draw-scan.ts";
import { chance } from "../scenario/random.ts";
import { endWithParent } from "./standin.ts";
import { controlPage } from "./scanner-page.ts";

const run = promisify(execFile);
/** Largest document that is put in, bytes. */
const PAPER_BYTES_MAX = 50 * 1024 * 1024;
/** Sheets of one batch. */
const SHEETS_MAX = 200;

const { values } = parseArgs({
  options: { port: { type: "string" }, folder: { type: "string" }, url: { type: "string" }, watched: { type: "string" } },
});
const port = Number(values.port);
const { folder, url, watched } = values;
if (!Number.isInteger(port) || port < 1 || folder === undefined || url === undefined || watched === undefined) {
  console.error("--port N, --folder DIR, --url ADDRESS and --watched DIR are needed; the key is in AMBER_SCANNER_KEY");
  process.exit(1);
}
const key = process.env["AMBER_SCANNER_KEY"] ?? "";
const pile = path.join(folder, "pile");
await mkdir(pile, { recursive: true });

const scanSchema = z.object({
  /** Sheets in the order they lie in, as `file.pdf#2`. */
  sheets: z.array(z.string()).min(1).max(SHEETS_MAX),
  bothSides: z.boolean().default(false),
  dpi: z.union([z.literal(200), z.literal(300)]).default(200),
  format: z.enum(["pdf", "tiff"]).default("pdf"),
  to: z.enum(["folder", "http"]).default("http"),
  queue: z
    .string()
    .regex(/^[a-z-]{1,40}$/)
    .default("general"),
});
let batches = 0;

/** What lies in the pile: each page of each document is a sheet. */
async function listPile(): Promise<readonly { readonly name: string; readonly sheets: readonly string[] }[]> {
  const names = (await readdir(pile)).filter((n) => n.endsWith(".pdf")).sort();
  const papers = [];
  for (const name of names) {
    const pdf = await PDFDocument.load(await readFile(path.join(pile, name))).catch(() => null);
    if (pdf) papers.push({ name, sheets: pdf.getPageIndices().map((i) => `${name}#${i + 1}`) });
  }
  return papers;
}

/** One sheet of the pile as a PDF of one page; null when it is not there. */
async function sheetOf(id: string): Promise<Uint8Array | null> {
  const [name = "", page = ""] = id.split("#");
  if (!(await readdir(pile)).includes(name)) return null;
  const from = await PDFDocument.load(await readFile(path.join(pile, name)));
  const number = Number(page);
  if (!Number.isInteger(number) || number < 1 || number > from.getPageCount()) return null;
  const one = await PDFDocument.create();
  const [copied] = await one.copyPages(from, [number - 1]);
  if (copied) one.addPage(copied);
  return one.save();
}

async function scan(
  wish: z.infer<typeof scanSchema>,
): Promise<{ readonly fileName: string; readonly pages: number; readonly id: string | null }> {
  const batch = ++batches;
  const c = chance(Date.now() % 1_000_000);
  const blank = await PDFDocument.create();
  blank.addPage([595.28, 841.89]);
  const back = await blank.save();
  const pages: Buffer[] = [];
  for (const id of wish.sheets) {
    const sheet = await sheetOf(id);
    if (!sheet) throw new Error(`there is no sheet ${id}`);
    pages.push(...(await scanPages(sheet, c, 1, wish.dpi)));
    if (wish.bothSides) pages.push(...(await scanPages(back, c, 1, wish.dpi)));
  }
  const fileName = `batch-${String(batch).padStart(3, "0")}-${Date.now().toString(36)}.${wish.format === "pdf" ? "pdf" : "tif"}`;
  const bytes = wish.format === "pdf" ? await scanPdf(pages, new Date().toISOString().slice(0, 10)) : await scanTiff(pages);
  if (wish.to === "folder") {
    const target = path.join(watched ?? "", wish.queue);
    await mkdir(target, { recursive: true });
    // As scanners do: written under another name first, so that nobody takes half of it.
    await writeFile(path.join(target, `.${fileName}.part`), bytes);
    await rename(path.join(target, `.${fileName}.part`), path.join(target, fileName));
    return { fileName, pages: pages.length, id: null };
  }
  const form = new FormData();
  form.set("queue", wish.queue);
  form.set("source", "scanner");
  form.set("file", new Blob([new Uint8Array(bytes)], { type: wish.format === "pdf" ? "application/pdf" : "image/tiff" }), fileName);
  const answer = await fetch(`${url}/api/v1/arrivals`, {
    method: "POST",
    headers: { authorization: `Bearer ${key}`, "idempotency-key": fileName },
    body: form,
  });
  if (!answer.ok) throw new Error(`Amber Clip answered ${answer.status}`);
  return { fileName, pages: pages.length, id: z.object({ id: z.string() }).parse(await answer.json()).id };
}

async function bodyOf(request: http.IncomingMessage): Promise<Buffer> {
  const pieces: Buffer[] = [];
  let bytes = 0;
  for await (const piece of request) {
    bytes += (piece as Buffer).length;
    if (bytes > PAPER_BYTES_MAX) throw new Error("too large");
    pieces.push(piece as Buffer);
  }
  return Buffer.concat(pieces);
}

async function picture(id: string): Promise<Buffer | null> {
  const sheet = await sheetOf(id);
  if (!sheet) return null;
  const work = await mkdtemp(path.join(os.tmpdir(), "amber-scanner-"));
  try {
    await writeFile(path.join(work, "s.pdf"), sheet);
    await run("pdftoppm", [
      "-jpeg",
      "-scale-to-x",
      "150",
      "-scale-to-y",
      "-1",
      "-singlefile",
      path.join(work, "s.pdf"),
      path.join(work, "s"),
    ]);
    return await readFile(path.join(work, "s.jpg"));
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

const server = http.createServer((request, response) => {
  const at = new URL(request.url ?? "/", "http://scanner");
  const json = (status: number, value: unknown): void => {
    response.writeHead(status, { "content-type": "application/json" });
    response.end(JSON.stringify(value));
  };
  const handle = async (): Promise<void> => {
    if (request.method === "GET" && at.pathname === "/") {
      response.writeHead(200, { "content-type": "text/html; charset=utf-8" });
      response.end(controlPage);
    } else if (request.method === "GET" && at.pathname === "/pile") json(200, { papers: await listPile() });
    else if (request.method === "GET" && at.pathname === "/picture") {
      const bytes = await picture(at.searchParams.get("sheet") ?? "");
      if (!bytes) return json(404, { error: "there is no such sheet" });
      response.writeHead(200, { "content-type": "image/jpeg" });
      response.end(bytes);
    } else if (request.method === "POST" && at.pathname === "/pile") {
      const name = `${(at.searchParams.get("name") ?? "paper")
        .replace(/\.pdf$/i, "")
        .replace(/[^\w .-]/g, "_")
        .slice(0, 80)}.pdf`;
      const bytes = await bodyOf(request);
      if (!(await PDFDocument.load(bytes).catch(() => null))) return json(400, { error: "that is no PDF" });
      await writeFile(path.join(pile, name), bytes);
      json(200, { name });
    } else if (request.method === "POST" && at.pathname === "/scan") {
      const wish = scanSchema.safeParse(JSON.parse((await bodyOf(request)).toString("utf8")));
      if (!wish.success) return json(400, { error: wish.error.issues[0]?.message ?? "not understood" });
      json(200, await scan(wish.data));
    } else json(404, { error: "not found" });
  };
  handle().catch((error: unknown) => json(500, { error: error instanceof Error ? error.message : "failed" }));
});
endWithParent();
server.listen(port, "127.0.0.1", () => console.log(`scanner at http://127.0.0.1:${port}`));
