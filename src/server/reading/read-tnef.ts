/** A file that was packed into a `winmail.dat`. */
export interface TnefFile {
  readonly fileName: string;
  readonly bytes: Uint8Array;
}

const SIGNATURE = 0x223e9f78;
/** Attributes that are read, by the published layout (MS-TNEF). */
const BEGINS_FILE = 0x9002;
const FILE_NAME = 0x8010;
const FILE_DATA = 0x800f;
const FILE_PROPERTIES = 0x9005;
/** The long file name among a file's properties, as text in UTF-16 or in the old character set. */
const LONG_NAME = 0x3707;
const UNICODE = 0x1f;
const STRING8 = 0x1e;
/** Files and attributes that are read of one. */
const FILES_MAX = 200;
const ATTRIBUTES_MAX = 5_000;

/**
 * Takes a `winmail.dat` apart: the files that somebody attached in a mail program that packs them so. Reads straight through and stops at the first
 * thing that does not hold; what was read by then is answered. Null when it is no such file at all.
 */
export function readTnef(bytes: Uint8Array): readonly TnefFile[] | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 6 || view.getUint32(0, true) !== SIGNATURE) return null;
  const files: { fileName: string; bytes: Uint8Array }[] = [];
  let at = 6;
  for (let n = 0; n < ATTRIBUTES_MAX && at + 9 <= bytes.length; n++) {
    const id = view.getUint16(at + 1, true);
    const length = view.getUint32(at + 5, true);
    const start = at + 9;
    if (length > bytes.length - start) break;
    const data = bytes.subarray(start, start + length);
    const file = files.at(-1);
    if (id === BEGINS_FILE) {
      if (files.length >= FILES_MAX) break;
      files.push({ fileName: "", bytes: new Uint8Array() });
    } else if (file && id === FILE_NAME && file.fileName === "") file.fileName = latin(data);
    else if (file && id === FILE_DATA) file.bytes = data;
    else if (file && id === FILE_PROPERTIES) file.fileName = longName(data) ?? file.fileName;
    at = start + length + 2;
  }
  return files.filter((f) => f.bytes.length > 0).map((f, i) => ({ fileName: f.fileName || `part-${i + 1}`, bytes: f.bytes }));
}

/** The long name among a file's properties. They are not walked, only looked through: their kinds have many sizes, and one wrong would lose all. */
function longName(data: Uint8Array): string | null {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  for (let at = 0; at + 12 <= data.length; at += 4) {
    const kind = view.getUint16(at, true);
    if (view.getUint16(at + 2, true) !== LONG_NAME || (kind !== UNICODE && kind !== STRING8)) continue;
    // One value, then its length with the closing zero.
    const length = view.getUint32(at + 8, true);
    if (view.getUint32(at + 4, true) !== 1 || length === 0 || length > 520 || at + 12 + length > data.length) continue;
    const text = data.subarray(at + 12, at + 12 + length);
    const name = kind === UNICODE ? new TextDecoder("utf-16le").decode(text) : latin(text);
    if (name.replaceAll("\0", "") !== "") return name.replaceAll("\0", "");
  }
  return null;
}

const latin = (data: Uint8Array): string => new TextDecoder("windows-1252").decode(data).replaceAll("\0", "");
