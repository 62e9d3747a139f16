import { readFile, stat } from "node:fs/promises";
import { convert } from "html-to-text";
import PostalMime from "postal-mime";
import { readMsg } from "./read-msg.ts";
import { readTnef } from "./read-tnef.ts";
import { namesInUtf8, splitMailbox } from "./split-mailbox.ts";
import { keptBody, type MailPart, problemOnly, type ReadOutcome } from "./read-outcome.ts";

/** Bytes of a mail that is taken apart; a larger one is kept whole and can be filed as it is. */
const MAIL_BYTES_MAX = 150 * 1024 * 1024;
/** Parts of a mail that become arrivals. */
const PARTS_MAX = 200;
/** Steps of multipart inside multipart. */
const NESTING_MAX = 20;
/** Characters of a head with ids, of one id, and ids kept. */
const HEAD_MAX = 20_000;
const ID_MAX = 250;
const ANSWERS_MAX = 50;
/** An inline picture smaller than this is a logo or a signature. */
const LOGO_BYTES = 30 * 1024;

/** A mail as read, and the bytes of its parts. */
export interface ReadMail {
  readonly outcome: ReadOutcome;
  readonly sender: string;
  readonly subject: string;
  readonly parts: readonly (MailPart & { readonly bytes: Uint8Array })[];
}

/** Takes a mail apart: who, what, its text (never its HTML), and its parts. Inline logos are marked as left aside. */
export async function readMail(file: string): Promise<ReadMail> {
  const empty = { sender: "", subject: "", parts: [] };
  if ((await stat(file)).size > MAIL_BYTES_MAX) return { ...empty, outcome: problemOnly("not-readable", "the mail is too large to parse") };
  const bytes = await readFile(file);
  const messages = splitMailbox(bytes);
  if (messages.length > 1) return asMailbox(messages);
  let mail;
  try {
    mail = await new MailParser({
      forceRfc822Attachments: true,
      attachmentEncoding: "arraybuffer",
      maxNestingDepth: NESTING_MAX,
    }).parse(namesInUtf8(messages[0] ?? bytes));
  } catch {
    return { ...empty, outcome: problemOnly("broken") };
  }
  const text = mail.text?.trim()
    ? mail.text
    : mail.html
      ? convert(mail.html, {
          wordwrap: false,
          limits: { maxInputLength: 2_000_000 },
          selectors: [
            { selector: "img", format: "skip" },
            { selector: "a", options: { ignoreHref: true } },
          ],
        })
      : "";
  const address = (a: { name?: string; address?: string } | undefined): string =>
    a?.name ? [a.name, a.address ? `<${a.address}>` : ""].filter(Boolean).join(" ") : (a?.address ?? "");
  const from = address(mail.from);
  const subject = mail.subject ?? "";
  const parts: (MailPart & { bytes: Uint8Array })[] = [];
  const add = (fileName: string, mediaType: string, bytes: Uint8Array, aside: boolean): void =>
    void (parts.length < PARTS_MAX && parts.push({ part: parts.length + 1, fileName, mediaType, sizeBytes: bytes.length, aside, bytes }));
  for (const a of mail.attachments) {
    const bytes = typeof a.content === "string" ? new TextEncoder().encode(a.content) : new Uint8Array(a.content);
    const inline = a.disposition === "inline" || a.related === true;
    // By its own beginning: what it is called, and as what it is sent, differs from program to program.
    const packed = readTnef(bytes);
    const aside =
      (inline && a.mimeType.startsWith("image/") && bytes.length < LOGO_BYTES) ||
      a.mimeType === "text/calendar" ||
      (packed?.length ?? 0) > 0;
    add(a.filename ?? (a.mimeType === "message/rfc822" ? "message.eml" : `part-${parts.length + 1}`), a.mimeType, bytes, aside);
    // What is packed in there is what was sent; the package itself is left aside.
    for (const file of packed ?? []) add(file.fileName, "application/octet-stream", file.bytes, false);
  }
  const list = (all: readonly { name?: string; address?: string }[] | undefined): string =>
    (all ?? []).slice(0, 50).map(address).join(", ");
  const sentAt = mail.date && !Number.isNaN(Date.parse(mail.date)) ? new Date(mail.date).toISOString() : null;
  const messageId = idsIn(mail.messageId)[0] ?? null;
  const answers = [...new Set([...idsIn(mail.inReplyTo), ...idsIn(mail.references)])].slice(0, ANSWERS_MAX);
  return asRead(
    { from, to: list(mail.to), cc: list(mail.cc), subject, sentAt, messageId, answers, text },
    parts,
    mail.attachments.length > PARTS_MAX,
  );
}

/** Messages of a mailbox file that become arrivals. */
const MESSAGES_MAX = PARTS_MAX;

/** A mailbox file: each message is a part that is read like a mail of its own. */
function asMailbox(messages: readonly Buffer[]): ReadMail {
  const parts = messages.slice(0, MESSAGES_MAX).map((bytes, i) => ({
    part: i + 1,
    fileName: `message-${i + 1}.eml`,
    mediaType: "message/rfc822",
    sizeBytes: bytes.length,
    aside: false,
    bytes,
  }));
  const about = { from: "", to: "", cc: "", subject: `Mailbox with ${messages.length} messages`, sentAt: null, text: "" };
  return asRead(about, parts, messages.length > MESSAGES_MAX);
}

/**
 * A parser for which a named text or HTML part beside the text is what it is in every mail program: an attachment. The first text without an explicit file name
 * and the alternatives of one text stay the text.
 */
class MailParser extends PostalMime {
  #texts = 0;
  isInlineTextNode(node: TextNode): boolean {
    const isText = this.#isText(node);
    if (isText) this.#texts++;
    return isText;
  }

  #isText({ contentDisposition, contentType, parentNode }: TextNode): boolean {
    if (contentDisposition.parsed.value === "attachment" || !["text/plain", "text/html"].includes(contentType.parsed.value)) return false;
    if (parentNode?.contentType.multipart === "alternative") return true;
    if (contentDisposition.parsed.params["filename"]) return false;
    return !contentType.parsed.params["name"] || this.#texts === 0;
  }
}
/** What the parser asks of a part. */
interface TextNode {
  readonly contentDisposition: { readonly parsed: { readonly value: string; readonly params: Readonly<Record<string, string>> } };
  readonly contentType: { readonly parsed: { readonly value: string; readonly params: Readonly<Record<string, string>> } };
  readonly parentNode?: { readonly contentType: { readonly multipart: string | false } };
}

/** Ids of mails in a head, such as `<a@b.example>`; what is overlong or none is left out. Linear. */
function idsIn(text: string | undefined): readonly string[] {
  return (text ?? "")
    .slice(0, HEAD_MAX)
    .split(/[\s,]+/)
    .filter((id) => id.length > 4 && id.length <= ID_MAX && id.startsWith("<") && id.endsWith(">") && id.includes("@"));
}

/** A message as its reading is kept: who, what, its text cut at the limit, and its parts. */
function asRead(
  about: {
    readonly from: string;
    readonly to: string;
    readonly cc: string;
    readonly subject: string;
    readonly sentAt: string | null;
    readonly messageId?: string | null;
    readonly answers?: readonly string[];
    readonly text: string;
  },
  parts: ReadMail["parts"],
  leftOut: boolean,
): ReadMail {
  const { body, truncated } = keptBody([about.subject, about.from, about.to, about.text].filter(Boolean).join("\n"));
  return {
    sender: about.from,
    subject: about.subject,
    parts,
    outcome: {
      pages: 1,
      pageTexts: [],
      body,
      outline: { kind: "mail", ...about, text: keptBody(about.text).body, parts: parts.map(({ bytes: _bytes, ...rest }) => rest) },
      problem: truncated || leftOut ? { code: "truncated", detail: null } : null,
    },
  };
}

/** Takes a `.msg` file apart, as a mail that came by itself. */
export async function readMessageFile(file: string): Promise<ReadMail> {
  const read = await readMsg(file);
  if ("problem" in read) return { sender: "", subject: "", parts: [], outcome: read.problem };
  const { parts: files, ...about } = read.message;
  const parts = files.map((p, i) => ({
    part: i + 1,
    fileName: p.fileName || `part-${i + 1}`,
    mediaType: "application/octet-stream",
    sizeBytes: p.bytes.length,
    aside: false,
    bytes: p.bytes,
  }));
  return asRead(about, parts, false);
}
