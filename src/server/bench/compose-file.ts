import { mkdir, readdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { setTimeout } from "node:timers/promises";
import { degrees, PDFDocument } from "@cantoo/pdf-lib";
import sharp from "sharp";
import type { ContentKind } from "#core/arrivals/limits.ts";
import type { Quarter } from "#core/pages/turn-box.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { ranOutOfSpace, runTool } from "../reading/run-tool.ts";

/** Longest time for putting one file together, ms. */
const TIMEOUT_MS = 120_000;
/** The date that wrapped pictures carry, so that the same pages always give the same bytes. */
const FIXED = new Date("2000-01-01T00:00:00Z");
/** Dots an inch assumed of a picture that says nothing sensible. */
const DENSITY_ASSUMED = 150;
/** How often it is looked which files are whole, ms. */
const LOOK_MS = 20;

/** A page to be put into a file. */
export interface PageToCompose {
  readonly file: string;
  readonly kind: ContentKind;
  readonly page: number;
  readonly turn: Quarter;
  /** Pages that the file has, where that is known. */
  readonly among?: number;
}

/** A part whose file is whole: its number among the parts, and where it is. */
export interface MadePart {
  readonly part: number;
  readonly file: string;
}

/**
 * Puts pages of PDFs and pictures together to PDFs, one for each part, in a folder that is cleared afterwards; answers their paths in the order of
 * the parts. Nothing is drawn again: pages of a PDF come over with their text, links and form fields, a JPEG goes in as it is, other pictures without
 * loss. What is not among a part's pages is not in its file. The same pages give the same bytes. Refuses not-readable when a source cannot be opened.
 *
 * Parts of the same length are made by one run of the tool, which opens the sources once and not once for each: a hundred parts in a tenth of the time.
 * `onMade` is told of files as they become whole: what is done with them need not wait for the last one.
 */
export async function composePdfs(
  parts: readonly (readonly PageToCompose[])[],
  folder: string,
  onMade: (made: readonly MadePart[]) => void = () => {},
): Promise<Result<readonly string[]>> {
  const wrapped = await wrapPictures(parts.flat(), folder);
  if (!wrapped.ok) return wrapped;
  const bySize = new Map<number, number[]>();
  for (const [i, part] of parts.entries()) bySize.set(part.length, [...(bySize.get(part.length) ?? []), i]);
  const paths: string[] = [];
  for (const [size, indices] of bySize) {
    const out = path.join(folder, `size-${size}`);
    await mkdir(out, { recursive: true });
    const running = composeOnce(
      indices.flatMap((i) => parts[i] ?? []),
      size,
      path.join(out, "part-%d.pdf"),
      wrapped.value,
    );
    let told = 0;
    const tell = (names: readonly string[]): void => {
      // Named by their page numbers with leading zeros: in the order of the names they are in the order of the parts.
      const made = names.slice(told).map((name, n) => ({ part: indices[told + n] ?? 0, file: path.join(out, name) }));
      told += made.length;
      for (const { part, file } of made) paths[part] = file;
      if (made.length > 0) onMade(made);
    };
    // The one that is being written is the last there is.
    while (!(await endsWithin(running, LOOK_MS))) tell((await readdir(out)).sort().slice(0, -1));
    const done = await running;
    if (!done.ok) return done;
    const made = (await readdir(out)).sort();
    if (made.length !== indices.length) return refuse("not-readable");
    tell(made);
  }
  return ok(paths);
}

/** Whether something ends within so many milliseconds. */
const endsWithin = (what: Promise<unknown>, ms: number): Promise<boolean> => Promise.race([what.then(() => true), setTimeout(ms, false)]);

const pictureKey = (page: PageToCompose): string => `${page.file} ${page.page}`;

/** Pictures as PDFs of one page, each once. Refuses not-readable. */
async function wrapPictures(pages: readonly PageToCompose[], folder: string): Promise<Result<ReadonlyMap<string, string>>> {
  const wrapped = new Map<string, string>();
  for (const page of pages) {
    if (page.kind === "pdf" || wrapped.has(pictureKey(page))) continue;
    const file = await wrapPicture(page, path.join(folder, `picture-${wrapped.size}.pdf`));
    if (file === null) return refuse("not-readable");
    wrapped.set(pictureKey(page), file);
  }
  return ok(wrapped);
}

async function composeOnce(
  pages: readonly PageToCompose[],
  size: number,
  target: string,
  wrapped: ReadonlyMap<string, string>,
): Promise<Result<null>> {
  const runs: { readonly file: string; readonly pages: number[] }[] = [];
  const turns = new Map<Quarter, number[]>();
  for (const [index, page] of pages.entries()) {
    const picture = wrapped.get(pictureKey(page));
    const [file, number] = page.kind === "pdf" || picture === undefined ? [page.file, page.page] : [picture, 1];
    if (page.turn !== 0) turns.set(page.turn, [...(turns.get(page.turn) ?? []), index + 1]);
    const last = runs.at(-1);
    if (last?.file === file) last.pages.push(number);
    else runs.push({ file, pages: [number] });
  }
  // The first one's pages are taken as they are and not copied before: a third less to do, and form fields that several pages share stay what they are.
  const [first = "", among] = [runs[0]?.file, pages[0]?.among];
  const isWhole = runs.length === 1 && pages.length === among && runs[0]?.pages.every((n, i) => n === i + 1) === true;
  const chosen = isWhole ? [] : ["--pages", ...runs.flatMap((r) => [r.file === first ? "." : r.file, rangesOf(r.pages)]), "--"];
  const rotate = [...turns].map(([turn, numbers]) => `--rotate=+${turn}:${rangesOf(numbers)}`);
  const done = await runTool(
    "qpdf",
    [
      first,
      // Nothing of a lock goes over to what is made.
      "--decrypt",
      "--warning-exit-0",
      "--no-warn",
      "--deterministic-id",
      `--split-pages=${size}`,
      ...rotate,
      ...chosen,
      target,
    ],
    { timeoutMs: TIMEOUT_MS, stdoutMax: 1024 * 1024 },
  );
  return done.exitCode === 0 ? ok(null) : refuse(ranOutOfSpace(done) ? "no-space" : "not-readable");
}

/** `1-3,7,5` for pages in this order. */
export function rangesOf(numbers: readonly number[]): string {
  const parts: string[] = [];
  for (let i = 0; i < numbers.length;) {
    let end = i;
    while (numbers[end + 1] === (numbers[end] ?? 0) + 1) end++;
    parts.push(end > i ? `${numbers[i]}-${numbers[end]}` : String(numbers[i]));
    i = end + 1;
  }
  return parts.join(",");
}

/** A picture as a page of its own: a JPEG's bytes go in untouched, turned as its camera said. Null when it cannot be opened. */
async function wrapPicture(page: PageToCompose, target: string): Promise<string | null> {
  try {
    const about = await sharp(page.file, { page: page.page - 1 }).metadata();
    const density = about.density !== undefined && about.density >= 50 && about.density <= 1200 ? about.density : DENSITY_ASSUMED;
    const pdf = await PDFDocument.create();
    pdf.setCreationDate(FIXED);
    pdf.setModificationDate(FIXED);
    const orientation = page.kind === "jpeg" ? (about.orientation ?? 1) : 1;
    // Mirrored pictures (2, 4, 5, 7) come from no camera: they are put in without loss, as they are displayed.
    const asIs = page.kind === "jpeg" && [1, 3, 6, 8].includes(orientation);
    const picture = asIs
      ? await pdf.embedJpg(await readFile(page.file))
      : await pdf.embedPng(
          await sharp(page.file, { page: page.page - 1 })
            .rotate()
            .png()
            .toBuffer(),
        );
    const [width, height] = [(picture.width * 72) / density, (picture.height * 72) / density];
    const sheet = pdf.addPage([width, height]);
    sheet.drawImage(picture, { x: 0, y: 0, width, height });
    if (asIs) sheet.setRotation(degrees({ 3: 180, 6: 90, 8: 270 }[orientation] ?? 0));
    await writeFile(target, await pdf.save({ useObjectStreams: false }));
    return target;
  } catch {
    return null;
  }
}
