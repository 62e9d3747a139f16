/**
 * What a repository's folders and files may be called. Each kind of connection declares its own; the strictest sensible
 * set is used for folders on disk, since they are often shared with machines that ignore case and trim dots.
 */
export interface NamingLimits {
  /** Longest name of one folder or file, in UTF-8 bytes. */
  readonly nameBytesMax: number;
  /** Longest whole path below the repository's root, in UTF-8 bytes. */
  readonly pathBytesMax: number;
  /** Characters that may not stand in a name. */
  readonly forbidden: string;
  /** Names that are taken by the system, without ending, lower case. */
  readonly reserved: readonly string[];
  readonly ignoresCase: boolean;
  /** Whether names come back in another Unicode form than they were given in. Names are composed (NFC) everywhere. */
  readonly changesUnicode: boolean;
  /** Whether dots and blanks at the end of a name are dropped by it. They are left off everywhere. */
  readonly trimsEdges: boolean;
}

/** A folder on disk or a mounted share: what every machine that may open it can bear. */
export const diskLimits: NamingLimits = {
  nameBytesMax: 200,
  pathBytesMax: 1000,
  forbidden: '<>:"/\\|?*',
  reserved: [
    "con",
    "prn",
    "aux",
    "nul",
    ...["com", "lpt"].flatMap((p) => ["1", "2", "3", "4", "5", "6", "7", "8", "9", "¹", "²", "³"].map((n) => p + n)),
  ],
  ignoresCase: true,
  changesUnicode: true,
  trimsEdges: true,
};

/** A WebDAV server: it mostly stands on a disk of its own, so its names are held to what a disk bears; addresses are escaped and longer. */
export const webdavLimits: NamingLimits = { ...diskLimits, pathBytesMax: 900, forbidden: `${diskLimits.forbidden}#%` };

/** A bucket: keys of 1,024 bytes in all, told apart to the byte; what must be escaped in addresses and by common tools is left out. */
export const bucketLimits: NamingLimits = {
  nameBytesMax: 255,
  pathBytesMax: 1000,
  forbidden: '\\{}^%`[]"<>~#|/:?*',
  reserved: [],
  ignoresCase: false,
  changesUnicode: false,
  trimsEdges: false,
};

/** Most bytes that one unit of a text's length takes in UTF-8: a text whose length times this is within a limit need not be counted. */
export const UTF8_MOST = 3;

/** Bytes a text takes in UTF-8. */
export function utf8Bytes(text: string): number {
  let bytes = 0;
  for (const character of text) {
    const point = character.codePointAt(0) ?? 0;
    bytes += point < 0x80 ? 1 : point < 0x800 ? 2 : point < 0x10000 ? 3 : 4;
  }
  return bytes;
}

/**
 * Makes any text a legal name: composed Unicode, no forbidden, control or invisible characters, no leading or trailing
 * dots and blanks, not reserved, short enough with the ending kept. Never empty: what leaves nothing becomes "unnamed".
 * Doing it twice changes nothing. Rule: docs/rules.md#legal-names (promise 5)
 */
export function legalName(text: string, limits: NamingLimits, ending = ""): string {
  if (isPlain(text) && text.length + ending.length <= limits.nameBytesMax && !isReserved(text, limits)) return text + ending;
  let name = text.normalize("NFC");
  // A slash or colon in a number keeps the parts apart; everything else that is forbidden just goes.
  name = name.replace(/[/\\:|]/g, "-");
  name = Array.from(name)
    .filter((c) => !limits.forbidden.includes(c) && !isInvisible(c))
    .join("");
  name = trimEdges(name.replace(/\s+/gu, " "));
  const room = limits.nameBytesMax - utf8Bytes(ending);
  name = trimEdges(cutToBytes(name, room));
  if (name === "") name = "unnamed";
  // Windows goes by what stands before the first dot: "con.2026" is taken too.
  const stem = (name.split(".")[0] ?? "").trim().toLowerCase();
  if (limits.reserved.includes(stem)) name = trimEdges(cutToBytes(`_${name}`, room));
  return name + ending;
}

const LETTERS_AND_DIGITS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789";
const codesOf = (characters: string) =>
  Uint8Array.from({ length: 128 }, (_, code) => Number(characters.includes(String.fromCharCode(code))));
const firstOfPlain = codesOf(LETTERS_AND_DIGITS);
const restOfPlain = codesOf(`${LETTERS_AND_DIGITS}_()&',=@+- `);
const BLANK = 32;

/** Whether a name is legal everywhere as it is, which most are. Told without a pattern: whole filing plans are worked out in one go. */
function isPlain(text: string): boolean {
  if (firstOfPlain[text.charCodeAt(0)] !== 1) return false;
  let before = 0;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if (restOfPlain[code] !== 1 || (code === BLANK && before === BLANK)) return false;
    before = code;
  }
  return before !== BLANK;
}

const longest = new WeakMap<NamingLimits, number>();
/** Whether a name is reserved as a whole; hardly any is as short as these. */
function isReserved(text: string, limits: NamingLimits): boolean {
  let most = longest.get(limits);
  if (most === undefined) longest.set(limits, (most = Math.max(0, ...limits.reserved.map((r) => r.length))));
  return text.length <= most && limits.reserved.includes(text.toLowerCase());
}

/** Two names that fold to the same must not stand in one folder: case, Unicode form, trailing dots and blanks are ignored. */
export function foldName(name: string): string {
  if (isPlain(name)) return name.toLowerCase();
  // Upper before lower brings ß and ss, ſ and s together, as file systems that ignore case do.
  return trimEdges(name.normalize("NFKC").toUpperCase().toLowerCase().normalize("NFKC").replace(/\s+/gu, " "));
}

/** Folds each step of a path; for the unique index on places. */
export function foldPath(segments: readonly string[]): string {
  return segments.map(foldName).join("/");
}

/** Folds paths as `foldPath` does, remembering the folders above: for many paths of one plan. Make a new one for each piece of work. */
export function pathFolder(): (path: string) => string {
  const known = new Map<string, string>([["", ""]]);
  const fold = (path: string): string => {
    const cut = path.lastIndexOf("/");
    if (cut === -1) return foldName(path);
    const parent = path.slice(0, cut);
    let folded = known.get(parent);
    if (folded === undefined) known.set(parent, (folded = fold(parent)));
    return `${folded}/${foldName(path.slice(cut + 1))}`;
  };
  return fold;
}

/** The ending of a file name with its dot, lower case, only when it is a plain one; else "". */
export function endingOf(fileName: string): string {
  return /\.[A-Za-z0-9]{1,8}$/.exec(fileName)?.[0].toLowerCase() ?? "";
}

/** A name with a number that tells it from its namesakes: "Letter (2).pdf". Stays within the limits. */
export function numberedName(name: string, ending: string, number: number, limits: NamingLimits): string {
  const suffix = ` (${number})`;
  const stem = name.slice(0, name.length - ending.length);
  return trimEdges(cutToBytes(stem, limits.nameBytesMax - utf8Bytes(suffix) - utf8Bytes(ending))) + suffix + ending;
}

const NUMBER_OF_NAMESAKE = / \((\d{1,6})\)(?=\.[A-Za-z0-9]{1,8}$|$)/;

/** A name or path without the number that `numberedName` put behind it; as it is when it has none. */
export function withoutNumber(name: string): string {
  return name.replace(NUMBER_OF_NAMESAKE, "");
}

/** The number that tells a name or path from its namesakes; null when it has none. */
export function numberOf(name: string): number | null {
  const found = NUMBER_OF_NAMESAKE.exec(name)?.[1];
  return found === undefined ? null : Number(found);
}

function trimEdges(name: string): string {
  let start = 0;
  let end = name.length;
  while (start < end && isEdge(name[start])) start++;
  while (end > start && isEdge(name[end - 1])) end--;
  return name.slice(start, end);
}

const isEdge = (c: string | undefined): boolean => c !== undefined && (c === "." || /\s/u.test(c));

function isInvisible(character: string): boolean {
  const point = character.codePointAt(0) ?? 0;
  if (point < 0x20 && !/\s/.test(character)) return true;
  if (point >= 0x7f && point < 0xa0) return true;
  // Direction marks, joiners and private or unpaired characters make two names look alike.
  return /[\p{Cf}\p{Co}\p{Cs}\p{Cn}]/u.test(character);
}

function cutToBytes(text: string, room: number): string {
  let bytes = 0;
  let kept = "";
  for (const character of text) {
    bytes += utf8Bytes(character);
    if (bytes > room) break;
    kept += character;
  }
  return kept;
}
