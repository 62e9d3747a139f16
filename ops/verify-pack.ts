import { createHash } from "node:crypto";
import { createReadStream } from "node:fs";
import { lstat, readdir } from "node:fs/promises";
import path from "node:path";
import type { Readable } from "node:stream";
import yauzl from "yauzl";
import { type BagFault, checkBag, type FoundFile } from "#core/packs/bag.ts";

/** Bytes of a text file of a bag that are read; the manifest of a hundred thousand documents is far smaller. */
const TEXT_BYTES_MAX = 64 * 1024 * 1024;
const texts = new Set(["bagit.txt", "bag-info.txt", "manifest-sha256.txt", "tagmanifest-sha256.txt", "data/index.json"]);
const words: Readonly<Record<BagFault["code"], string>> = {
  "no-declaration": "this is not a BagIt bag",
  "no-manifest": "the manifest is missing",
  "bad-manifest": "the manifest cannot be read",
  altered: "was altered",
  lost: "is missing",
  added: "was added",
  "bad-path": "points outside the pack",
  oxum: "states a different number of files or bytes",
  index: "differs from the index",
};

async function hashed(stream: Readable, bagPath: string): Promise<FoundFile> {
  const hash = createHash("sha256");
  const kept: Buffer[] = [];
  let sizeBytes = 0;
  for await (const piece of stream) {
    const bytes = piece as Buffer;
    hash.update(bytes);
    sizeBytes += bytes.length;
    if (texts.has(bagPath) && sizeBytes <= TEXT_BYTES_MAX) kept.push(bytes);
  }
  const text = texts.has(bagPath) && sizeBytes <= TEXT_BYTES_MAX ? Buffer.concat(kept).toString("utf8") : null;
  return { path: bagPath, sha256: hash.digest("hex"), sizeBytes, text };
}

async function fromFolder(folder: string): Promise<readonly FoundFile[]> {
  const found: FoundFile[] = [];
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    const file = path.join(entry.parentPath, entry.name);
    const bagPath = path.relative(folder, file).split(path.sep).join("/");
    // A link leads who knows where: it is no file of the pack.
    if (entry.isFile()) found.push(await hashed(createReadStream(file), bagPath));
    else if (!entry.isDirectory()) found.push({ path: bagPath, sha256: "", sizeBytes: 0, text: null });
  }
  return found;
}

async function fromZip(file: string): Promise<readonly FoundFile[]> {
  const zip = await new Promise<yauzl.ZipFile>((resolve, reject) => {
    yauzl.open(file, { lazyEntries: true, autoClose: true }, (error, opened) => (error ? reject(error) : resolve(opened)));
  });
  return new Promise((resolve, reject) => {
    const found: FoundFile[] = [];
    zip.on("error", reject);
    zip.on("end", () => resolve(found));
    zip.on("entry", (entry: yauzl.Entry) => {
      if (entry.fileName.endsWith("/")) return zip.readEntry();
      // The bag is the one folder at the top of the archive.
      const bagPath = entry.fileName.slice(entry.fileName.indexOf("/") + 1);
      zip.openReadStream(entry, (error, stream) => {
        if (error) return reject(error);
        hashed(stream, bagPath).then((f) => {
          found.push(f);
          zip.readEntry();
        }, reject);
      });
    });
    zip.readEntry();
  });
}

async function main(): Promise<void> {
  const pack = process.argv[2] ?? "";
  const about = await lstat(pack).catch(() => null);
  if (!about) {
    console.error(`There is nothing at ${pack}`);
    process.exit(2);
  }
  let found: readonly FoundFile[];
  try {
    found = about.isDirectory() ? await fromFolder(pack) : await fromZip(pack);
  } catch (error) {
    console.log(`NOT intact: it cannot be opened (${error instanceof Error ? error.message : "unknown"})`);
    process.exit(1);
  }
  const faults = checkBag(found);
  for (const fault of faults) console.log(`${fault.path}: ${words[fault.code]}`);
  const papers = found.filter((f) => f.path.startsWith("data/papers/")).length;
  if (faults.length > 0) {
    console.log(`NOT intact: ${faults.length} ${faults.length === 1 ? "fault" : "faults"}`);
    process.exit(1);
  }
  console.log(`intact: ${papers} ${papers === 1 ? "document" : "documents"}, ${found.length} files, every hash matches`);
}

main().catch((error: unknown) => {
  console.error(error instanceof Error ? error.message : "could not be checked");
  process.exit(2);
});
