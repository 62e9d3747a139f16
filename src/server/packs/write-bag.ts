import { createHash } from "node:crypto";
import { createReadStream, createWriteStream } from "node:fs";
import { pipeline } from "node:stream/promises";
import { stringify } from "csv-stringify/sync";
import { ZipFile } from "yazl";
import { BAG_DECLARATION, type BagFile, bagInfo, manifestOf, oxumOf } from "#core/packs/bag.ts";
import { diskLimits, legalName } from "#core/filing-plan/legal-name.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { AppError } from "../ports/app-error.ts";
import { localFile } from "../documents/local-file.ts";
import type { PackedPaper, PackedRecord } from "./load-papers.ts";

/** What is said of a pack as a whole. */
export interface PackAbout {
  readonly label: string;
  readonly madeBy: string;
  readonly madeAt: string;
  /** How the records were chosen, in words. */
  readonly chosen: string;
}
/** A document that could not be put in. */
export interface LeftOut {
  readonly code: string;
  readonly title: string;
  readonly why: string;
}

/**
 * Writes a pack as a bag (RFC 8493) in one ZIP file: documents as they are, each once; the records with their fields, checklists and timelines; an index; and
 * a hash of everything. Records and documents are streamed one after the other, however many there are.
 */
export async function writeBag(
  target: string,
  about: PackAbout,
  records: AsyncIterable<PackedRecord>,
  onPaper: () => Promise<void>,
): Promise<{ readonly records: number; readonly papers: number; readonly leftOut: readonly LeftOut[] }> {
  const zip = new ZipFile();
  const out = createWriteStream(target, { flags: "wx", mode: 0o640 });
  const written = pipeline(zip.outputStream, out);
  // A fault while the archive is written (a full disk) ends the making of it at once: nothing would ask for the rest of a document any more.
  const broken = new Promise<never>((_, reject) => void written.catch(reject));
  broken.catch(() => {});
  // A document that cannot be read is told by its own stream; the archive would throw it a second time, at nobody.
  zip.on("error", () => {});
  const top = legalName(about.label, diskLimits);
  const payload: BagFile[] = [];
  const mtime = new Date(about.madeAt);
  const addText = (path: string, text: string): BagFile => {
    const bytes = Buffer.from(text, "utf8");
    zip.addBuffer(bytes, `${top}/${path}`, { mtime, mode: 0o100644 });
    return { path, sha256: createHash("sha256").update(bytes).digest("hex"), sizeBytes: bytes.length };
  };
  const papers = new Map<string, PackedPaper & { readonly records: string[] }>();
  const leftOut: LeftOut[] = [];
  const listed: {
    readonly company: string;
    readonly type: string;
    readonly key: string;
    readonly title: string;
    readonly folder: string;
  }[] = [];
  try {
    for await (const record of records) {
      const name = `${record.company} ${record.type} ${record.key}`;
      const folder = `records/${legalName(name, diskLimits)}`;
      for (const paper of record.papers) {
        const known = papers.get(paper.code);
        if (known) {
          known.records.push(name);
          continue;
        }
        const why = await Promise.race([addPaper(zip, `${top}/data/papers/${paper.fileName}`, paper, mtime), broken]);
        await onPaper();
        if (why !== null) {
          leftOut.push({ code: paper.code, title: paper.title, why });
          continue;
        }
        papers.set(paper.code, { ...paper, records: [name] });
        payload.push({ path: `data/papers/${paper.fileName}`, sha256: paper.sha256, sizeBytes: paper.sizeBytes });
      }
      const { papers: own, checklist, timeline, ...facts } = record;
      const files = own.map((p) => ({ code: p.code, file: `papers/${p.fileName}`, section: p.section }));
      payload.push(addText(`data/${folder}/record.json`, json({ ...facts, papers: files })));
      payload.push(addText(`data/${folder}/checklist.json`, json(checklist)));
      payload.push(addText(`data/${folder}/timeline.json`, json(timeline)));
      listed.push({ company: record.company, type: record.type, key: record.key, title: record.title, folder });
    }
    const rows = [...papers.values()].map((p) => ({
      code: p.code,
      title: p.title,
      documentType: p.documentType,
      documentDate: p.documentDate ?? "",
      version: p.version,
      file: `papers/${p.fileName}`,
      sizeBytes: p.sizeBytes,
      sha256: p.sha256,
      filedAt: p.filedAt,
      filedBy: p.filedBy ?? "",
      records: p.records.join("; "),
      properties: p.properties,
    }));
    payload.push(addText("data/index.json", json({ ...about, records: listed, papers: rows, leftOut })));
    const cells = rows.map(({ properties, ...row }) => ({ ...row, properties: JSON.stringify(properties) }));
    payload.push(addText("data/index.csv", stringify(cells, { header: true, bom: true, escape_formulas: true })));
    const tags = [
      addText("bagit.txt", BAG_DECLARATION),
      addText(
        "bag-info.txt",
        bagInfo({
          "Bagging-Date": about.madeAt.slice(0, 10),
          "External-Description": `${about.label}. ${about.chosen}`,
          "Contact-Name": about.madeBy,
          "Payload-Oxum": oxumOf(payload),
        }),
      ),
      addText("manifest-sha256.txt", manifestOf(payload)),
    ];
    addText("tagmanifest-sha256.txt", manifestOf(tags));
    zip.end();
    await written;
  } catch (error) {
    out.destroy();
    throw error;
  }
  return { records: listed.length, papers: papers.size, leftOut };
}

/** Puts a paper's bytes into the archive and waits until they are through, so that one file at a time is open. Answers why it could not, null when it could. */
async function addPaper(zip: ZipFile, path: string, paper: PackedPaper, mtime: Date): Promise<string | null> {
  let file: string;
  try {
    file = await localFile(parseSha256(paper.sha256));
  } catch (error) {
    if (error instanceof AppError && error.code === "bytes-missing") return "its file was not found";
    throw error;
  }
  await new Promise<void>((resolve, reject) => {
    const stream = createReadStream(file);
    stream.once("end", resolve);
    stream.once("error", reject);
    // Documents are packed mostly: pressing them again costs more than it saves.
    zip.addReadStream(stream, path, { mtime, mode: 0o100644, compress: false, size: paper.sizeBytes });
  });
  return null;
}

const json = (value: unknown): string => `${JSON.stringify(value, null, 2)}\n`;
