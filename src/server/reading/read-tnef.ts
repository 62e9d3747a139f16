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
/** Properties of a file (MS-OXPROPS): its contents, its long and its short name. */
const DATA_PROPERTY = 0x3701;
const LONG_NAME = 0x3707;
const SHORT_NAME = 0x3704;
/** Kinds of properties (MS-OXCDATA 2.11.1). */
const UNICODE = 0x1f;
const STRING8 = 0x1e;
const BINARY = 0x102;
const OBJECT = 0x0d;
/** Bytes that properties of a fixed size take, filled up to four. */
const FIXED: Readonly<Record<number, number>> = { 2: 4, 3: 4, 4: 4, 5: 8, 6: 8, 7: 8, 0x0a: 4, 0x0b: 4, 0x14: 8, 0x40: 8, 0x48: 16 };
/** Bytes that name the kind of an embedded object, before its contents. */
const OBJECT_ID = 16;
/** Packages inside packages that are opened. */
const DEPTH_MAX = 5;
/** Files and attributes that are read of one. */
const FILES_MAX = 200;
const ATTRIBUTES_MAX = 5_000;

/**
 * Takes a `winmail.dat` apart: the files that somebody attached in a mail program that packs them so. Reads straight through and stops at the first
 * thing that does not hold; what was read by then is answered. Null when it is no such file at all.
 */
export function readTnef(bytes: Uint8Array, depth = 0): readonly TnefFile[] | null {
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
    if (id === BEGINS_FILE && files.length >= FILES_MAX) break;
    // Some programs leave the beginning of a file out.
    if (id === BEGINS_FILE || (files.length === 0 && [FILE_NAME, FILE_DATA, FILE_PROPERTIES].includes(id)))
      files.push({ fileName: "", bytes: new Uint8Array() });
    const file = files.at(-1);
    if (file && id === FILE_NAME && file.fileName === "") file.fileName = latin(data);
    else if (file && id === FILE_DATA && data.length > 0) file.bytes = data;
    else if (file && id === FILE_PROPERTIES) {
      const said = propertiesOf(data);
      file.fileName = said.name ?? file.fileName;
      if (file.bytes.length === 0 && said.bytes) file.bytes = said.bytes;
    }
    at = start + length + 2;
  }
  return files
    .filter((f) => f.bytes.length > 0)
    .flatMap((f, i): readonly TnefFile[] => {
      // A message that was attached: the files in it are what was sent.
      const inner = depth < DEPTH_MAX ? readTnef(f.bytes, depth + 1) : null;
      return inner && inner.length > 0 ? inner : [{ fileName: f.fileName || `part-${i + 1}`, bytes: f.bytes }];
    })
    .slice(0, FILES_MAX);
}

/** The name and the contents among a file's properties (MS-OXTNEF 2.1.3.4). Ends at the first that does not hold; what was read by then is answered. */
function propertiesOf(data: Uint8Array): { readonly name: string | null; readonly bytes: Uint8Array | null } {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const padded = (length: number): number => Math.ceil(length / 4) * 4;
  let [long, short, bytes]: [string | null, string | null, Uint8Array | null] = [null, null, null];
  try {
    const count = Math.min(view.getUint32(0, true), ATTRIBUTES_MAX);
    let at = 4;
    for (let n = 0; n < count; n++) {
      const [type, id] = [view.getUint16(at, true), view.getUint16(at + 2, true)];
      at += 4;
      if (id >= 0x8000) {
        // A named property: its set, then a number or a name.
        const isName = view.getUint32(at + 16, true) === 1;
        at += 24 + (isName ? padded(view.getUint32(at + 20, true)) : 0);
      }
      const kind = type & 0x0fff;
      const fixed = FIXED[kind];
      const isSeveral = (type & 0x1000) !== 0;
      let values = 1;
      if (isSeveral || fixed === undefined) {
        values = view.getUint32(at, true);
        at += 4;
      }
      for (let v = 0; v < Math.min(values, ATTRIBUTES_MAX); v++) {
        const length = fixed ?? view.getUint32(at, true);
        if (fixed === undefined) at += 4;
        if (length > data.length - at) return { name: long ?? short, bytes };
        const value = data.subarray(at, at + length);
        at += padded(length);
        if (kind === UNICODE || kind === STRING8) {
          const text = (kind === UNICODE ? new TextDecoder("utf-16le").decode(value) : latin(value)).replaceAll("\0", "");
          if (id === LONG_NAME && text !== "") long = text;
          if (id === SHORT_NAME && text !== "") short = text;
        } else if (id === DATA_PROPERTY && (kind === BINARY || kind === OBJECT))
          bytes = kind === OBJECT ? value.subarray(OBJECT_ID) : value;
      }
    }
  } catch (error) {
    // Past its end.
    if (!(error instanceof RangeError)) throw error;
  }
  return { name: long ?? short, bytes };
}

const latin = (data: Uint8Array): string => new TextDecoder("windows-1252").decode(data).replaceAll("\0", "");
