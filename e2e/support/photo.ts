import { execFile } from "node:child_process";
import { mkdtemp, readFile, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import sharp from "sharp";
import { makePdf } from "./papers.ts";

const run = promisify(execFile);

/** A photograph of a document that lies a little turned on a dark table, as a phone gives it. */
export async function photoOf(...lines: readonly string[]): Promise<Buffer> {
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-photo-"));
  try {
    await writeFile(path.join(folder, "p.pdf"), await makePdf(lines));
    await run("pdftoppm", ["-jpeg", "-r", "170", "-singlefile", path.join(folder, "p.pdf"), path.join(folder, "p")]);
    const paper = await sharp(await readFile(path.join(folder, "p.jpg")))
      .modulate({ brightness: 0.92 })
      .rotate(3, { background: "#4a3a2c" })
      .toBuffer();
    return await sharp({ create: { width: 1800, height: 2400, channels: 3, background: "#4a3a2c" } })
      .composite([{ input: paper, gravity: "centre" }])
      .jpeg({ quality: 88 })
      .toBuffer();
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
