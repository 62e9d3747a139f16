import { mkdtemp, readFile, rm, stat } from "node:fs/promises";
import { tmpdir } from "node:os";
import path from "node:path";
import type { EInvoice } from "#core/reading/e-invoice.ts";
import { eInvoiceIn } from "./read-xml.ts";
import { type PageText, textOfWords, type Word } from "#core/pages/page-text.ts";
import { bodyOfPages, keptBody, type Reader, type ReadOutcome, problemOnly } from "./read-outcome.ts";
import { runTool } from "./run-tool.ts";

/** Longest time for one PDF, ms: 2,000 pages at the usual 5–9 ms each, twice over. */
const TIMEOUT_MS = 60_000;
/** Longest time on the clock, ms, however busy the machine is. */
const CLOCK_MS = 100_000;
/** Most that is taken of the word list, bytes. */
const STDOUT_MAX = 256 * 1024 * 1024;
/** Attached XML files of one PDF that are looked at, and bytes of each. */
const ATTACHMENTS_MAX = 4;
const XML_MAX = 20 * 1024 * 1024;
/** Words of one page that are kept; a page with more is a drawing or an attack. */
const WORDS_PAGE_MAX = 20_000;

/** Reads a PDF's pages, sizes and words. Locked, broken and over-long ones are answered with their problem. */
export const readPdf: Reader = async (file, options) => {
  // One page more than allowed is asked for: then it shows that there are too many, and however many there are is not read.
  const text = await runTool("pdftotext", ["-bbox", "-l", String(options.pagesMax + 1), file, "-"], {
    timeoutMs: TIMEOUT_MS,
    stdoutMax: STDOUT_MAX,
    clockMs: options.clockMs ?? CLOCK_MS,
  });
  if (/Incorrect password/i.test(text.stderr)) return problemOnly("locked");
  if (text.stopped === "too-slow") return foundUntilStopped(text.stdout.toString("utf8"));
  if (text.exitCode !== 0 && text.stdout.length === 0) return problemOnly("broken");
  const pageTexts = parseBbox(text.stdout.toString("utf8"));
  const pages = pageTexts.length;
  if (pages > options.pagesMax) return tooManyPages(file, options.pagesMax);
  if (pageTexts.length === 0) return problemOnly("broken");
  const { body, truncated } = bodyOfPages(pageTexts.map((p) => textOfWords(p.words)));
  const invoice = await carriedInvoice(file);
  return {
    pages,
    pageTexts,
    body,
    outline: invoice ? { kind: "invoice", invoice } : null,
    problem: truncated || text.stopped ? { code: "truncated", detail: null } : null,
  };
};

/** What was read of a PDF until it was stopped, with its problem: contents that repeat without end are no reason to show nothing. */
function foundUntilStopped(xhtml: string): ReadOutcome {
  const pageTexts = parseBbox(xhtml);
  const { body } = bodyOfPages(pageTexts.map((p) => textOfWords(p.words)));
  return { pages: pageTexts.length || null, pageTexts, body, outline: null, problem: { code: "too-slow", detail: null } };
}

/** The e-invoice that a PDF carries as an attachment (as EN 16931 hybrids do); null when it carries none that can be read. */
async function carriedInvoice(file: string): Promise<EInvoice | null> {
  const list = await runTool("pdfdetach", ["-list", file], { timeoutMs: 10_000, stdoutMax: 256 * 1024 });
  const names = [...list.stdout.toString("utf8").matchAll(/^(\d{1,4}): (.{1,200})$/gm)].filter(([, , name = ""]) =>
    /\.xml$/i.test(name.trim()),
  );
  for (const [, number = ""] of names.slice(0, ATTACHMENTS_MAX)) {
    const folder = await mkdtemp(path.join(tmpdir(), "amber-attached-"));
    try {
      const to = path.join(folder, "attached.xml");
      await runTool("pdfdetach", ["-save", number, "-o", to, file], { timeoutMs: 10_000, stdoutMax: 64 * 1024 });
      if ((await stat(to)).size > XML_MAX) continue;
      const invoice = eInvoiceIn((await readFile(to)).toString("utf8"));
      if (invoice) return invoice;
    } catch {
      // An attachment that cannot be taken out is none: the pages are read all the same.
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }
  return null;
}

/** Says how many pages an over-long PDF has. */
async function tooManyPages(file: string, pagesMax: number): Promise<ReadOutcome> {
  const info = await runTool("pdfinfo", [file], { timeoutMs: 20_000, stdoutMax: 1024 * 1024 });
  const pages = Number(/^Pages:\s+(\d+)/m.exec(info.stdout.toString("utf8"))?.[1] ?? 0) || pagesMax + 1;
  return { ...problemOnly("too-many-pages", `${pages} pages, at most ${pagesMax}`), pages };
}

/** Reads poppler's word list. Line by line and forgiving: what is not a page or a word is passed over. Boxes are checked to be numbers. */
export function parseBbox(xhtml: string): readonly PageText[] {
  const pages: { number: number; widthPoints: number; heightPoints: number; words: Word[] }[] = [];
  for (const line of xhtml.split("\n")) {
    const trimmed = line.trim();
    if (trimmed.startsWith("<page ")) {
      const size = /^<page width="([\d.]+)" height="([\d.]+)">/.exec(trimmed);
      if (size) pages.push({ number: pages.length + 1, widthPoints: Number(size[1]), heightPoints: Number(size[2]), words: [] });
    } else if (trimmed.startsWith("<word ")) {
      const page = pages.at(-1);
      const parts = /^<word xMin="(-?[\d.]+)" yMin="(-?[\d.]+)" xMax="(-?[\d.]+)" yMax="(-?[\d.]+)">(.*)<\/word>$/.exec(trimmed);
      if (!page || !parts || page.words.length >= WORDS_PAGE_MAX) continue;
      const [x, y, right, bottom] = [Number(parts[1]), Number(parts[2]), Number(parts[3]), Number(parts[4])];
      const text = keptBody(unescapeXml(parts[5] ?? "")).body;
      if (text.trim() !== "" && [x, y, right, bottom].every(Number.isFinite))
        page.words.push({ text, box: [round(x), round(y), round(right - x), round(bottom - y)] });
    }
  }
  return pages;
}

const round = (n: number): number => Math.round(n * 100) / 100;

function unescapeXml(text: string): string {
  return text.replace(/&(lt|gt|quot|apos|amp|#(\d{1,7}));/g, (whole, name: string, digits: string | undefined) => {
    if (digits !== undefined) {
      const point = Number(digits);
      return point > 0x10ffff ? "" : String.fromCodePoint(point);
    }
    return { lt: "<", gt: ">", quot: '"', apos: "'", amp: "&" }[name] ?? whole;
  });
}
