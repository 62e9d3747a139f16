import { open } from "node:fs/promises";
import { fileTypeFromBuffer, fileTypeFromFile } from "file-type";
import type { ContentKind } from "#core/arrivals/limits.ts";

/** Bytes of the beginning that are looked at. */
const HEAD = 64 * 1024;

const byMime: Readonly<Record<string, ContentKind>> = {
  "application/pdf": "pdf",
  "image/jpeg": "jpeg",
  "image/png": "png",
  "image/apng": "png",
  "image/tiff": "tiff",
  "image/webp": "webp",
  "image/gif": "gif",
  "image/heic": "heic",
  "image/heif": "heic",
  "image/heic-sequence": "heic",
  "image/heif-sequence": "heic",
  "application/vnd.openxmlformats-officedocument.wordprocessingml.document": "docx",
  "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet": "xlsx",
  "application/vnd.ms-word.document.macroenabled.12": "docm",
  "application/vnd.ms-excel.sheet.macroenabled.12": "xlsm",
  "application/vnd.ms-powerpoint.presentation.macroenabled.12": "office",
  "application/vnd.ms-excel.sheet.binary.macroenabled.12": "office",
  "image/avif": "avif",
  "image/avif-sequence": "avif",
  "image/bmp": "bmp",
  "image/x-ms-bmp": "bmp",
  "application/xml": "xml",
  "application/rtf": "office",
  "application/x-cfb": "office",
  "application/vnd.openxmlformats-officedocument.presentationml.presentation": "office",
  "application/vnd.oasis.opendocument.text": "office",
  "application/vnd.oasis.opendocument.presentation": "office",
  "application/vnd.oasis.opendocument.spreadsheet": "office",
  "application/zip": "archive",
  "application/gzip": "archive",
  "application/x-7z-compressed": "archive",
  "application/x-rar-compressed": "archive",
  "application/x-tar": "archive",
  "application/x-msdownload": "program",
  "application/x-elf": "program",
  "application/x-mach-binary": "program",
};

/** What a file is, by its content. The name only settles between kinds of text. Never fails on odd content; unknown is an answer. */
export async function detectKind(file: string, fileName: string): Promise<ContentKind> {
  const handle = await open(file, "r");
  let head: Buffer;
  try {
    const buffer = Buffer.alloc(HEAD);
    const { bytesRead } = await handle.read(buffer, 0, HEAD, 0);
    head = buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
  // A PDF may have up to a kilobyte of something else before it.
  if (head.subarray(0, 1024 + 5).includes("%PDF-")) return "pdf";
  const known = (await fileTypeFromFile(file).catch(() => undefined)) ?? (await fileTypeFromBuffer(head).catch(() => undefined));
  if (known?.mime === "application/x-cfb" && (await holdsMessage(file))) return "msg";
  if (known?.mime === "image/tiff") return isOtherTiff(head) ? "tiffOther" : "tiff";
  if (known) return byMime[known.mime.toLowerCase()] ?? (known.mime.startsWith("text/") ? textKind(head, fileName) : "unknown");
  return looksLikeText(head) ? textKind(head, fileName) : "unknown";
}

/** Tags of a TIFF's first page: bits of a sample, and how its colours are meant (TIFF 6.0, section 8). */
const BITS_PER_SAMPLE = 258;
const PHOTOMETRIC = 262;
/** CIELab, ICCLab and ITULab. */
const LAB = [8, 9, 10];
/** Bits that every reader knows. */
const USUAL_BITS = [1, 2, 4, 8, 16, 32];

/** Whether a TIFF's first page has an odd number of bits or Lab colours, so that it is converted first. False where its beginning does not tell. */
export function isOtherTiff(head: Buffer): boolean {
  const little = head.toString("latin1", 0, 2) === "II";
  const u16 = (at: number): number => (at + 2 > head.length ? -1 : little ? head.readUInt16LE(at) : head.readUInt16BE(at));
  const u32 = (at: number): number => (at + 4 > head.length ? -1 : little ? head.readUInt32LE(at) : head.readUInt32BE(at));
  const at = u32(4);
  if (u16(2) !== 42 || at < 8) return false;
  for (let entry = 0; entry < Math.min(u16(at), 200); entry++) {
    const tag = at + 2 + entry * 12;
    const count = u32(tag + 4);
    // Up to two values stand in the entry itself, more elsewhere.
    const value = count > 2 ? u16(u32(tag + 8)) : u16(tag + 8);
    if (u16(tag) === BITS_PER_SAMPLE && value > 0 && !USUAL_BITS.includes(value)) return true;
    if (u16(tag) === PHOTOMETRIC && LAB.includes(value)) return true;
  }
  return false;
}

/** How the package of an encrypted office file is called (MS-OFFCRYPTO 2.3.4), in two bytes a letter. */
const ENCRYPTED_PACKAGE = Buffer.from("EncryptedPackage", "utf16le");

/** Whether an office file is encrypted with a password: then it is a compound file that holds an encrypted package. */
export const isEncryptedOffice = (file: string): Promise<boolean> => holdsInDirectory(file, ENCRYPTED_PACKAGE);

/** Bytes that are looked through for what tells a message from other files of its make. */
const DIRECTORY_MAX = 4 * 1024 * 1024;
/** How a message's parts are called, in two bytes a letter. */
const MESSAGE_PART = Buffer.from("__substg1.0_", "utf16le");

/** Whether a compound file is a message: its directory, wherever it stands, names a message's parts. */
const holdsMessage = (file: string): Promise<boolean> => holdsInDirectory(file, MESSAGE_PART);

async function holdsInDirectory(file: string, name: Buffer): Promise<boolean> {
  const handle = await open(file, "r");
  try {
    const buffer = Buffer.alloc(Math.min(DIRECTORY_MAX, (await handle.stat()).size));
    const { bytesRead } = await handle.read(buffer, 0, buffer.length, 0);
    return buffer.subarray(0, bytesRead).includes(name);
  } finally {
    await handle.close();
  }
}

/** Text has no zero bytes and hardly any control characters. UTF-16 with its mark counts. */
export function looksLikeText(head: Buffer): boolean {
  if (head.length === 0) return false;
  if ((head[0] === 0xff && head[1] === 0xfe) || (head[0] === 0xfe && head[1] === 0xff)) return true;
  let odd = 0;
  for (const byte of head) {
    if (byte === 0) return false;
    if (byte < 0x20 && byte !== 0x09 && byte !== 0x0a && byte !== 0x0d && byte !== 0x0c) odd++;
  }
  return odd <= head.length / 200;
}

/** Which kind of text: mail by its header lines, XML by its beginning, a table by its name or its steady separators. */
export function textKind(head: Buffer, fileName: string): ContentKind {
  const text = decodeText(head);
  const start = text.trimStart();
  if (/^<\?xml|^<[A-Za-z][\w.-]*:?[\w.-]*[\s>]/.test(start) && !/^<(!doctype html|html)/i.test(start)) return "xml";
  const lines = text.split(/\r\n|\n|\r/, 40);
  const headers = new Set<string>();
  for (const line of lines) {
    if (line === "") break;
    const name = /^([A-Za-z][A-Za-z0-9-]{1,60}):/.exec(line)?.[1]?.toLowerCase();
    if (name !== undefined) headers.add(name);
    else if (!/^[ \t]/.test(line) && !line.startsWith("From ")) break;
  }
  const mailish = ["from", "to", "subject", "date", "message-id", "mime-version", "received", "return-path"].filter((h) =>
    headers.has(h),
  ).length;
  if (mailish >= 3 || (mailish >= 2 && /\.eml$/i.test(fileName))) return "mail";
  if (/\.(csv|tsv)$/i.test(fileName)) return "csv";
  const filled = lines.filter((l) => l.trim() !== "").slice(0, 8);
  for (const separator of [";", ",", "\t"]) {
    const counts = filled.map((l) => l.split(separator).length - 1);
    if (filled.length >= 3 && (counts[0] ?? 0) >= 2 && counts.every((c) => c === counts[0])) return "csv";
  }
  return "text";
}

/** Text from bytes: by its mark, else UTF-8 where it fits, else the usual Western set. */
export function decodeText(bytes: Buffer): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder("utf-16le").decode(bytes);
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder("utf-16be").decode(bytes);
  // A piece cut out of a longer text may end inside a character: then up to three bytes are left out.
  for (const left of bytes.length >= HEAD ? [0, 1, 2, 3] : [0]) {
    try {
      return new TextDecoder("utf-8", { fatal: true }).decode(bytes.subarray(0, bytes.length - left));
    } catch {
      continue;
    }
  }
  return new TextDecoder("windows-1252").decode(bytes);
}
