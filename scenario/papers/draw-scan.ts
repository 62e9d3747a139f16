import { execFile } from "node:child_process";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import { PDFDocument } from "@cantoo/pdf-lib";
import sharp from "sharp";
import type { Chance } from "../random.ts";

const run = promisify(execFile);

/** Pages of a PDF as a scanner gives them: grey, a slight turn, noise. JPEG bytes for each page. */
export async function scanPages(pdf: Uint8Array, c: Chance, pages: number, dpi = 200): Promise<readonly Buffer[]> {
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-scan-"));
  try {
    const file = path.join(folder, "paper.pdf");
    await writeFile(file, pdf);
    const scanned: Buffer[] = [];
    for (let page = 1; page <= pages; page++) {
      const out = path.join(folder, `page-${page}`);
      await run("pdftoppm", ["-r", String(dpi), "-gray", "-jpeg", "-f", String(page), "-l", String(page), "-singlefile", file, out]);
      const turn = (c.next() - 0.5) * 2.4;
      const { data, info } = await sharp(`${out}.jpg`)
        .rotate(turn, { background: "#f4f2ec" })
        .resize(Math.round((1654 * dpi) / 200), Math.round((2339 * dpi) / 200), { fit: "cover" })
        .grayscale()
        .raw()
        .toBuffer({ resolveWithObject: true });
      for (let i = 0; i < data.length; i++) {
        // Every few dots a speck, every dot a little grain.
        const grain = (c.next() - 0.5) * 18;
        data[i] = Math.max(0, Math.min(255, (data[i] ?? 0) * 0.96 + grain));
      }
      scanned.push(
        await sharp(data, { raw: { width: info.width, height: info.height, channels: 1 } })
          .withMetadata({ density: dpi })
          .jpeg({ quality: 62 })
          .toBuffer(),
      );
    }
    return scanned;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Scanned pages as the image-only PDF that a scanner sends. */
export async function scanPdf(pages: readonly Buffer[], day: string): Promise<Uint8Array> {
  const pdf = await PDFDocument.create();
  const fixed = new Date(`${day}T09:00:00Z`);
  pdf.setCreationDate(fixed);
  pdf.setModificationDate(fixed);
  for (const page of pages) {
    const picture = await pdf.embedJpg(page);
    pdf.addPage([595.28, 841.89]).drawImage(picture, { x: 0, y: 0, width: 595.28, height: 841.89 });
  }
  return pdf.save({ useObjectStreams: false });
}

/** Scanned pages as one TIFF with several pages. */
export async function scanTiff(pages: readonly Buffer[]): Promise<Buffer> {
  const raws = await Promise.all(
    pages.map((p) => sharp(p).resize(1240, 1754).threshold(165).grayscale().raw().toBuffer({ resolveWithObject: true })),
  );
  return writeTiff(raws.map((r) => ({ data: r.data, width: r.info.width, height: r.info.height })));
}

/** A photograph of a page or of nothing in particular, taken with the camera held on its side: the picture is turned by its EXIF mark only. */
export async function photograph(source: Buffer, c: Chance): Promise<Buffer> {
  return sharp(source)
    .resize(1500)
    .modulate({ brightness: 0.9 + c.next() * 0.15 })
    .tint({ r: 250, g: 244, b: 228 })
    .rotate(-90)
    .withMetadata({ orientation: 6, density: 150 })
    .jpeg({ quality: 70 })
    .toBuffer();
}

/** A picture of boxes on a deck, for claims: shapes enough to be told apart in a list. */
export async function deckPhoto(c: Chance, label: string): Promise<Buffer> {
  const boxes = Array.from(
    { length: 9 },
    () =>
      `<rect x="${c.whole(40, 1100)}" y="${c.whole(380, 760)}" width="${c.whole(120, 320)}" height="${c.whole(80, 200)}" fill="hsl(${c.whole(20, 45)} ${c.whole(25, 50)}% ${c.whole(35, 62)}%)" stroke="#3a2c1c" stroke-width="5" transform="rotate(${c.whole(-8, 8)} 600 600)"/>`,
  ).join("");
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="1400" height="1050"><rect width="1400" height="420" fill="#9db4bd"/><rect y="360" width="1400" height="690" fill="#566269"/>${boxes}<text x="60" y="1010" font-size="42" font-family="Liberation Sans" fill="#f3efe2">${label.replace(/[<&>]/g, "")}</text></svg>`;
  return sharp(Buffer.from(svg)).withMetadata({ orientation: 1, density: 150 }).jpeg({ quality: 72 }).toBuffer();
}

/** A plain TIFF writer for grey pages (baseline TIFF 6.0, uncompressed bilevel): the picture library writes one page only. */
function writeTiff(pages: readonly { readonly data: Buffer; readonly width: number; readonly height: number }[]): Buffer {
  const parts: Buffer[] = [Buffer.from([0x49, 0x49, 42, 0, 0, 0, 0, 0])];
  let offset = 8;
  let pointerAt = 4;
  const head = parts[0];
  const patches: { at: number; value: number }[] = [];
  for (const page of pages) {
    const rowBytes = Math.ceil(page.width / 8);
    const bits = Buffer.alloc(rowBytes * page.height);
    for (let y = 0; y < page.height; y++)
      for (let x = 0; x < page.width; x++)
        if ((page.data[y * page.width + x] ?? 0) > 127)
          bits[y * rowBytes + (x >> 3)] = (bits[y * rowBytes + (x >> 3)] ?? 0) | (0x80 >> (x & 7));
    const stripAt = offset;
    const padded = bits.length % 2 === 0 ? bits : Buffer.concat([bits, Buffer.alloc(1)]);
    parts.push(padded);
    offset += padded.length;
    const resolution = Buffer.alloc(8);
    resolution.writeUInt32LE(150, 0);
    resolution.writeUInt32LE(1, 4);
    const resolutionAt = offset;
    parts.push(resolution);
    offset += 8;
    const tags: readonly (readonly [tag: number, type: 3 | 4 | 5, value: number])[] = [
      [256, 4, page.width],
      [257, 4, page.height],
      [258, 3, 1],
      [259, 3, 1],
      [262, 3, 1],
      [273, 4, stripAt],
      [277, 3, 1],
      [278, 4, page.height],
      [279, 4, bits.length],
      [282, 5, resolutionAt],
      [283, 5, resolutionAt],
      [296, 3, 2],
    ];
    const directory = Buffer.alloc(2 + tags.length * 12 + 4);
    directory.writeUInt16LE(tags.length, 0);
    tags.forEach(([tag, type, value], i) => {
      directory.writeUInt16LE(tag, 2 + i * 12);
      directory.writeUInt16LE(type, 4 + i * 12);
      directory.writeUInt32LE(1, 6 + i * 12);
      if (type === 3) directory.writeUInt16LE(value, 10 + i * 12);
      else directory.writeUInt32LE(value, 10 + i * 12);
    });
    patches.push({ at: pointerAt, value: offset });
    pointerAt = offset + 2 + tags.length * 12;
    parts.push(directory);
    offset += directory.length;
  }
  const whole = Buffer.concat(parts);
  if (!head) throw new Error("no pages");
  for (const { at, value } of patches) whole.writeUInt32LE(value, at);
  return whole;
}
