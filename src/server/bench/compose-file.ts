import { readFile, writeFile } from "node:fs/promises";
import { degrees, PDFDocument } from "@cantoo/pdf-lib";
import sharp from "sharp";
import type { ContentKind } from "#core/arrivals/limits.ts";
import type { Quarter } from "#core/pages/turn-box.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { runTool } from "../reading/run-tool.ts";

/** Longest time for putting one file together, ms. */
const TIMEOUT_MS = 120_000;
/** The date that wrapped pictures carry, so that the same pages always give the same bytes. */
const FIXED = new Date("2000-01-01T00:00:00Z");
/** Dots an inch assumed of a picture that says nothing sensible. */
const DENSITY_ASSUMED = 150;

/** A page to be put into a file. */
export interface PageToCompose {
  readonly file: string;
  readonly kind: ContentKind;
  readonly page: number;
  readonly turn: Quarter;
}

/**
 * Puts pages of PDFs and pictures together to one PDF at `target`, in a folder that is cleared afterwards. Nothing is drawn anew: pages of a PDF come over with their text, links and form
 * fields, a JPEG goes in as it is, other pictures without loss. What is not among the pages is not in the file. The same pages give the same
 * bytes. Refuses not-readable when a source cannot be opened.
 */
export async function composePdf(pages: readonly PageToCompose[], target: string): Promise<Result<null>> {
  const runs: { readonly file: string; readonly pages: number[] }[] = [];
  const turns = new Map<Quarter, number[]>();
  const wrapped = new Map<string, string>();
  for (const [index, page] of pages.entries()) {
    let [file, number] = [page.file, page.page];
    if (page.kind !== "pdf") {
      const key = `${page.file} ${page.page}`;
      const known = wrapped.get(key) ?? (await wrapPicture(page, `${target}.picture-${wrapped.size}.pdf`));
      if (known === null) return refuse("not-readable");
      wrapped.set(key, known);
      [file, number] = [known, 1];
    }
    if (page.turn !== 0) turns.set(page.turn, [...(turns.get(page.turn) ?? []), index + 1]);
    const last = runs.at(-1);
    if (last?.file === file) last.pages.push(number);
    else runs.push({ file, pages: [number] });
  }
  const args = runs.flatMap((r) => [r.file, rangesOf(r.pages)]);
  const rotate = [...turns].map(([turn, numbers]) => `--rotate=+${turn}:${rangesOf(numbers)}`);
  const done = await runTool(
    "qpdf",
    ["--empty", "--warning-exit-0", "--no-warn", "--deterministic-id", ...rotate, "--pages", ...args, "--", target],
    { timeoutMs: TIMEOUT_MS, stdoutMax: 1024 * 1024 },
  );
  return done.exitCode === 0 ? ok(null) : refuse("not-readable");
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
