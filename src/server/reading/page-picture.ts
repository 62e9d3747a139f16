import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from "node:fs/promises";
import { randomUUID } from "node:crypto";
import path from "node:path";
import sharp from "sharp";
import { type ContentKind, hasPictures } from "#core/arrivals/limits.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { localFile } from "../documents/local-file.ts";
import { picturesFolder } from "../ports/adapters.ts";
import { developed, developedKinds, isDeveloped } from "./develop.ts";
import { isLaidOut, layOut } from "./lay-out.ts";
import { runTool } from "./run-tool.ts";

/** Widths in pixels that pictures are made in; a wish takes the next one up, so that few are made of each page. */
export const pictureWidths = [160, 480, 960, 1600, 2400] as const;

/** Pages whose small pictures are made in one go. */
const RUN = 12;
/** Runs whose small pictures are made before anybody asks: what the bench shows first of a long bundle. */
const RUNS_AHEAD = 2;

const inWork = new Map<string, Promise<Result<string>>>();

/** The file that a content's pages are drawn from: itself, or what it was laid out or developed to. Refuses not-readable. */
export async function pageSource(
  sha256: Sha256,
  kind: string | null,
): Promise<Result<{ readonly file: string; readonly kind: ContentKind }>> {
  if (isLaidOut(kind)) {
    const made = await layOut(sha256);
    return made.ok ? ok({ file: made.value, kind: "pdf" }) : made;
  }
  if (isDeveloped(kind)) {
    const made = await developed(sha256, kind);
    return made.ok ? ok({ file: made.value, kind: developedKinds[kind] }) : made;
  }
  return hasPictures(kind) ? ok({ file: await localFile(sha256), kind }) : refuse("not-readable");
}

/**
 * The path of a page's picture (JPEG), made when it is not there yet. `number` counts from 1. Two that ask at once share the
 * work. Refuses not-found (no such page) and not-readable. The pictures folder can be removed at any time.
 */
export function pagePicture(sha256: Sha256, kind: string | null, number: number, wishedWidth: number): Promise<Result<string>> {
  const width = pictureWidths.find((w) => w >= wishedWidth) ?? 2400;
  const target = path.join(picturesFolder(), sha256.slice(0, 2), sha256, `${number}-${width}.jpg`);
  const known = inWork.get(target);
  if (known) return known;
  const work = (async (): Promise<Result<string>> => {
    // Small pictures are looked through many at a time: the neighbours are made in the same go, which opens the file once.
    if (kind === "pdf" && width === pictureWidths[0] && number > 1 && !(await isThere(target))) await makeRun(sha256, number);
    return make(sha256, kind, number, width, target);
  })().finally(() => inWork.delete(target));
  inWork.set(target, work);
  return work;
}

/**
 * Makes the small pictures of a long bundle's first pages, so that the bench shows them at once. What goes wrong is left to whoever asks for one of them;
 * documents of a few pages are not worth it.
 */
export async function picturesAhead(sha256: Sha256, kind: string | null, pages: number): Promise<void> {
  if (kind !== "pdf" || pages <= RUN) return;
  // The first is in no run: lists show it by itself.
  await pagePicture(sha256, kind, 1, pictureWidths[0]).catch(() => {});
  const folder = path.join(picturesFolder(), sha256.slice(0, 2), sha256);
  for (let first = 2, run = 0; run < RUNS_AHEAD && first <= pages; first += RUN, run++)
    if (!(await isThere(path.join(folder, `${first}-${pictureWidths[0]}.jpg`)))) await makeRun(sha256, first).catch(() => {});
}

const runsInWork = new Map<string, Promise<void>>();

/** Makes the small pictures of a run of pages in one go. What goes wrong is left to whoever asks for one of them. */
function makeRun(sha256: Sha256, number: number): Promise<void> {
  const first = Math.floor((number - 2) / RUN) * RUN + 2;
  const key = `${sha256} ${first}`;
  const known = runsInWork.get(key);
  if (known) return known;
  const work = (async () => {
    const source = await localFile(sha256);
    const folder = path.join(picturesFolder(), sha256.slice(0, 2), sha256);
    const temporary = path.join(folder, `run-${randomUUID()}`);
    await mkdir(temporary, { recursive: true });
    try {
      const size = String(pictureWidths[0]);
      const last = String(first + RUN - 1);
      await runTool(
        "pdftoppm",
        [
          "-jpeg",
          "-jpegopt",
          "quality=85",
          "-f",
          String(first),
          "-l",
          last,
          "-scale-to-x",
          size,
          "-scale-to-y",
          "-1",
          source,
          path.join(temporary, "p"),
        ],
        { timeoutMs: 30_000, stdoutMax: 1024 * 1024 },
      );
      for (const name of await readdir(temporary)) {
        const made = /-0*(\d+)\.jpg$/.exec(name)?.[1];
        // The last one may have been stopped in the middle: it is only whole when its end is there.
        if (made !== undefined && (await isWhole(path.join(temporary, name))))
          await rename(path.join(temporary, name), path.join(folder, `${made}-${size}.jpg`));
      }
    } finally {
      await rm(temporary, { recursive: true, force: true });
    }
  })().finally(() => runsInWork.delete(key));
  runsInWork.set(key, work);
  return work;
}

/** Whether a JPEG has its end. */
async function isWhole(file: string): Promise<boolean> {
  const bytes = await readFile(file);
  return bytes.length > 4 && bytes[bytes.length - 2] === 0xff && bytes[bytes.length - 1] === 0xd9;
}

const isThere = (file: string): Promise<boolean> =>
  stat(file).then(
    () => true,
    () => false,
  );

async function make(sha256: Sha256, kind: string | null, number: number, width: number, target: string): Promise<Result<string>> {
  if (await isThere(target)) return ok(target);
  const drawnFrom = await pageSource(sha256, kind);
  if (!drawnFrom.ok) return drawnFrom;
  const source = drawnFrom.value.file;
  await mkdir(path.dirname(target), { recursive: true });
  const temporary = `${target}.${randomUUID()}.part`;
  if (drawnFrom.value.kind === "pdf") {
    const outcome = await runTool(
      "pdftoppm",
      [
        "-jpeg",
        "-jpegopt",
        "quality=85",
        "-f",
        String(number),
        "-l",
        String(number),
        "-singlefile",
        "-scale-to-x",
        String(width),
        "-scale-to-y",
        "-1",
        source,
      ],
      { timeoutMs: 30_000, stdoutMax: 64 * 1024 * 1024 },
    );
    if (outcome.exitCode !== 0 || outcome.stdout.length === 0)
      return refuse(/Wrong page range|after the last page/i.test(outcome.stderr) ? "not-found" : "not-readable");
    await writeFile(temporary, outcome.stdout);
  } else {
    // Of pictures only TIFF has pages: others would give their only one whatever is asked for.
    if (number > 1 && drawnFrom.value.kind !== "tiff") return refuse("not-found");
    try {
      await sharp(source, { page: number - 1, failOn: "none" })
        .rotate()
        .flatten({ background: "#ffffff" })
        .resize({ width, withoutEnlargement: true })
        .jpeg({ quality: 85 })
        .toFile(temporary);
    } catch {
      return refuse(number > 1 ? "not-found" : "not-readable");
    }
  }
  await rename(temporary, target);
  return ok(target);
}

/** A page's picture as PNG bytes of exactly the wished width; for programs that ask for it. */
export async function pagePicturePng(sha256: Sha256, kind: string | null, number: number, width: number): Promise<Result<Buffer>> {
  const made = await pagePicture(sha256, kind, number, width);
  return made.ok
    ? ok(
        await sharp(await readFile(made.value))
          .resize({ width })
          .png()
          .toBuffer(),
      )
    : made;
}
