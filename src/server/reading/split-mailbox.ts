const LINE_FEED = 0x0a;
/** The line before each message of a mailbox file: "From", an address, and the day (RFC 4155). */
const SEPARATOR = /^From \S{1,320} .{0,60}\d{2}:\d{2}(:\d{2})?.{0,40}\d{4}/;
/** Longest separator that is looked at, bytes. */
const SEPARATOR_MAX = 500;

/**
 * The messages of a mailbox file (mbox, RFC 4155), without the lines that part them and with ">From " as it was written. A mail that stands alone, with or
 * without such a line before it, is one message. Linear.
 */
export function splitMailbox(bytes: Buffer): readonly Buffer[] {
  if (bytes.toString("latin1", 0, 5) !== "From ") return [bytes];
  const starts: { readonly line: number; readonly body: number }[] = [];
  let isAfterBlank = true;
  for (let at = 0; at < bytes.length;) {
    const end = bytes.indexOf(LINE_FEED, at);
    const next = end === -1 ? bytes.length : end + 1;
    const isFrom = isAfterBlank && bytes.toString("latin1", at, at + 5) === "From ";
    if (isFrom && SEPARATOR.test(bytes.toString("latin1", at, Math.min(next, at + SEPARATOR_MAX)))) starts.push({ line: at, body: next });
    isAfterBlank = next - at <= 2 && bytes.toString("latin1", at, next).trim() === "";
    at = next;
  }
  if (starts[0]?.line !== 0) return [bytes];
  return starts.map(({ body }, i) => unquoted(bytes.subarray(body, starts[i + 1]?.line ?? bytes.length)));
}

/** Takes back the sign that keeps a line of a message from being taken for a separator. */
function unquoted(message: Buffer): Buffer {
  return message.includes("\n>From ") ? Buffer.from(message.toString("latin1").replaceAll("\n>From ", "\nFrom "), "latin1") : message;
}

/**
 * A mail whose file names in heads are UTF-8: some programs write them in the Western set as they are, which no standard allows and every mail program reads. Only
 * lines that name a file and are no UTF-8 are changed; the kept original stays as it came.
 */
export function namesInUtf8(bytes: Buffer): Buffer {
  if (!bytes.some((b) => b >= 0x80)) return bytes;
  const pieces: Buffer[] = [];
  for (let at = 0; at < bytes.length;) {
    const end = bytes.indexOf(LINE_FEED, at);
    const next = end === -1 ? bytes.length : end + 1;
    const line = bytes.subarray(at, next);
    pieces.push(line.length < 1000 && line.includes("name=") && line.some((b) => b >= 0x80) ? lineInUtf8(line) : line);
    at = next;
  }
  return Buffer.concat(pieces);
}

function lineInUtf8(line: Buffer): Buffer {
  try {
    new TextDecoder("utf-8", { fatal: true }).decode(line);
    return line;
  } catch {
    return Buffer.from(new TextDecoder("windows-1252").decode(line), "utf8");
  }
}
