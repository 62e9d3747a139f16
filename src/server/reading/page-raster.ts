import sharp from "sharp";
import type { ContentKind } from "#core/arrivals/limits.ts";
import type { Grey } from "#core/pages/grey.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { runTool } from "./run-tool.ts";

/** Dots an inch that pages are looked at in: barcodes and small print are still told. */
export const LOOK_DPI = 200;
/** Most dots of a page; a larger one (a drawing, an attack) is looked at more coarsely. */
const DOTS_MAX = 40_000_000;
/** A picture is looked at no wider or higher than this, dots; one from a camera says nothing true about its size on document. */
const SIDE_MAX = 3200;
/** A picture smaller than this is blown up: small print is read better so. */
const SIDE_MIN = 1500;

/** Draws a page in grey for looking at: PDF at 200 dots an inch, pictures as they are within limits. Refuses not-readable. */
export async function pageRaster(
  file: string,
  kind: ContentKind,
  page: { readonly number: number; readonly widthPoints: number; readonly heightPoints: number },
): Promise<Result<Grey>> {
  if (kind === "pdf") {
    const dots = (page.widthPoints * page.heightPoints * LOOK_DPI ** 2) / 72 ** 2;
    const dpi = Math.max(20, Math.floor(dots > DOTS_MAX ? LOOK_DPI * Math.sqrt(DOTS_MAX / dots) : LOOK_DPI));
    const number = String(page.number);
    const drawn = await runTool(
      "pdftoppm",
      ["-gray", "-r", String(dpi), "-f", number, "-l", number, "-singlefile", file],
      { timeoutMs: 30_000, stdoutMax: DOTS_MAX * 2 },
      { gently: true },
    );
    const grey = drawn.exitCode === 0 ? parsePgm(drawn.stdout) : null;
    return grey ? ok(grey) : refuse("not-readable");
  }
  try {
    const about = await sharp(file, { page: page.number - 1 }).metadata();
    const longer = Math.max(about.width, about.height);
    const side = Math.max(SIDE_MIN, Math.min(SIDE_MAX, longer));
    const { data, info } = await sharp(file, { page: page.number - 1, failOn: "none" })
      .rotate()
      .flatten({ background: "#ffffff" })
      .resize({ width: side, height: side, fit: "inside" })
      .toColourspace("b-w")
      .raw()
      .toBuffer({ resolveWithObject: true });
    return ok({ width: info.width, height: info.height, data: info.channels === 1 ? new Uint8Array(data) : firstOf(data, info.channels) });
  } catch {
    return refuse("not-readable");
  }
}

/** The picture in poppler's own format: `P5 width height 255` and the dots. Null when it is none. */
export function parsePgm(bytes: Buffer): Grey | null {
  const head = /^P5\s+(\d{1,6})\s+(\d{1,6})\s+255\s/.exec(bytes.subarray(0, 60).toString("latin1"));
  if (!head) return null;
  const [width, height] = [Number(head[1]), Number(head[2])];
  const start = head[0].length;
  if (width * height === 0 || bytes.length < start + width * height) return null;
  return { width, height, data: new Uint8Array(bytes.buffer, bytes.byteOffset + start, width * height) };
}

function firstOf(data: Buffer, channels: number): Uint8Array {
  const out = new Uint8Array(data.length / channels);
  for (let i = 0; i < out.length; i++) out[i] = data[i * channels] ?? 0;
  return out;
}
