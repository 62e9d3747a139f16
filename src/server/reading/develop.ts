import { existsSync } from "node:fs";
import { copyFile, mkdir, mkdtemp, readdir, readFile, rename, rm, stat, writeFile } from "node:fs/promises";
import path from "node:path";
import sharp from "sharp";
import type { ContentKind } from "#core/arrivals/limits.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { localFile } from "../documents/local-file.ts";
import { picturesFolder } from "../ports/adapters.ts";
import { AppError } from "../ports/app-error.ts";
import { clearLeftovers } from "./lay-out.ts";
import { ranOutOfSpace, runTool } from "./run-tool.ts";

/** Longest time for one photograph, ms, and the largest picture it may give, bytes. */
const TIMEOUT_MS = 30_000;
const FILE_MAX = 256 * 1024 * 1024;
/** ImageMagick's converter, by the name that Debian gives it. */
const CONVERT = ["/usr/bin/convert-im6.q16", "/usr/bin/convert-im7.q16"].find((file) => existsSync(file)) ?? "convert-im6.q16";
/** Hardly told from the photograph itself, at twice to four times its size. */
const QUALITY = "92";
/** How folders of what is under way are called. */
const HALF = "developing-";

const inWork = new Map<string, Promise<Result<string>>>();

/** Pictures that nothing else here can open, and what each is developed to. */
export const developedKinds = { heic: "jpeg", bmp: "png", tiffOther: "tiff" } as const satisfies Partial<Record<ContentKind, ContentKind>>;
export type DevelopedKind = keyof typeof developedKinds;
/** Whether a picture is developed before its pages are drawn. */
export const isDeveloped = (kind: string | null): kind is DevelopedKind => kind !== null && Object.hasOwn(developedKinds, kind);
const endings: Readonly<Record<DevelopedKind, string>> = { heic: "jpg", bmp: "png", tiffOther: "tif" };

/**
 * The path of a photograph as telephones keep it (HEIC), as a JPEG that all else here can open; made when it is not there yet, and again after the pictures
 * were thrown away. Of several in one file it is the one that the file calls its first. Refuses not-readable. Throws AppError `reader-missing` when the
 * program for it is not installed.
 */
export function developed(sha256: Sha256, kind: DevelopedKind = "heic"): Promise<Result<string>> {
  const target = path.join(picturesFolder(), sha256.slice(0, 2), sha256, `developed.${endings[kind]}`);
  const known = inWork.get(target);
  if (known) return known;
  const work = (async () =>
    (await stat(target).catch(() => null)) ? ok(target) : makers[kind](await localFile(sha256), target))().finally(() =>
    inWork.delete(target),
  );
  inWork.set(target, work);
  return work;
}

/** How each kind is developed. */
const makers: Readonly<Record<DevelopedKind, (source: string, target: string) => Promise<Result<string>>>> = {
  heic: develop,
  bmp: (source, target) => convertPicture("BMP", "PNG", source, target),
  tiffOther: (source, target) => convertPicture("TIFF", "TIFF", source, target),
};

/**
 * Converts a picture to eight bits a sample in sRGB, all its pages. Formats are named, so that nothing in the file chooses another reader; memory, size and time
 * are limited. Refuses not-readable.
 */
async function convertPicture(from: "BMP" | "TIFF", to: "PNG" | "TIFF", source: string, target: string): Promise<Result<string>> {
  await mkdir(path.dirname(target), { recursive: true });
  await clearLeftovers(path.dirname(target), HALF);
  const folder = await mkdtemp(path.join(path.dirname(target), HALF));
  try {
    const paper = path.join(folder, "paper");
    await copyFile(source, paper);
    const made = path.join(folder, "out");
    const outcome = await runTool(
      CONVERT,
      [
        ...[
          "-limit",
          "memory",
          "512MiB",
          "-limit",
          "map",
          "512MiB",
          "-limit",
          "disk",
          "0",
          "-limit",
          "width",
          "30KP",
          "-limit",
          "height",
          "30KP",
        ],
        ...[`${from}:${paper}`, "-colorspace", "sRGB", "-depth", "8", "-alpha", "remove"],
        ...(to === "TIFF" ? ["-compress", "LZW"] : []),
        `${to}:${made}`,
      ],
      { timeoutMs: TIMEOUT_MS, stdoutMax: 64 * 1024 },
      { fileMax: FILE_MAX },
    );
    if (ranOutOfSpace(outcome)) throw new AppError("reader-failed", "later", "no space for a converted picture");
    if (outcome.exitCode !== 0 || outcome.stopped !== null || !(await stat(made).catch(() => null))) return refuse("not-readable");
    await rename(made, target);
    return ok(target);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function develop(source: string, target: string): Promise<Result<string>> {
  await mkdir(path.dirname(target), { recursive: true });
  await clearLeftovers(path.dirname(target), HALF);
  const folder = await mkdtemp(path.join(path.dirname(target), HALF));
  try {
    // A name that says nothing: what it is was found by its content.
    const paper = path.join(folder, "paper");
    await copyFile(source, paper);
    const outcome = await runTool(
      "heif-convert",
      ["-q", QUALITY, paper, path.join(folder, "out.jpg")],
      { timeoutMs: TIMEOUT_MS, stdoutMax: 64 * 1024 },
      { fileMax: FILE_MAX },
    );
    // The photograph is sound for all we know: it is tried again, and not said to be damaged.
    if (ranOutOfSpace(outcome)) throw new AppError("reader-failed", "later", "no space for what was developed of a photograph");
    if (outcome.exitCode !== 0 || outcome.stopped !== null) return refuse("not-readable");
    const first =
      ((
        await sharp(paper)
          .metadata()
          .catch(() => null)
      )?.pagePrimary ?? 0) + 1;
    const made = (await readdir(folder)).find((name) => name === "out.jpg" || name === `out-${first}.jpg`);
    if (made === undefined) return refuse("not-readable");
    const upright = withoutMarks(await readFile(path.join(folder, made)));
    if (!upright) return refuse("not-readable");
    await writeFile(path.join(folder, "upright.jpg"), upright);
    await rename(path.join(folder, "upright.jpg"), target);
    return ok(target);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/**
 * A JPEG without what its camera noted (EXIF and its kind, APP1). Which way up it was held is said twice in such a photograph, and was done already: turned
 * by the note again it would lie on its side (ISO/IEC 23008-12, 6.5.10 and annex A). Null when it is no JPEG, or not a whole one.
 */
export function withoutMarks(bytes: Buffer): Buffer | null {
  if (bytes.length < 4 || bytes.readUInt16BE(0) !== 0xffd8) return null;
  const kept = [bytes.subarray(0, 2)];
  for (let at = 2; at + 4 <= bytes.length;) {
    const marker = bytes.readUInt16BE(at);
    // From here on it is the picture itself.
    if (marker === 0xffda) return bytes.readUInt16BE(bytes.length - 2) === 0xffd9 ? Buffer.concat([...kept, bytes.subarray(at)]) : null;
    const end = at + 2 + bytes.readUInt16BE(at + 2);
    if (marker >> 8 !== 0xff || end > bytes.length) return null;
    if (marker !== 0xffe1) kept.push(bytes.subarray(at, end));
    at = end;
  }
  return null;
}
