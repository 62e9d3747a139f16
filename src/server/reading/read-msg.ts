import { readFile, stat } from "node:fs/promises";
import MsgReaderModule from "@kenjiuno/msgreader";
import { z } from "zod";
import { problemOnly, type ReadOutcome } from "./read-outcome.ts";

/** Bytes of a message file that is taken apart. */
const BYTES_MAX = 100 * 1024 * 1024;
/** Parts of it that become arrivals. */
const PARTS_MAX = 200;

const dataSchema = z.object({
  error: z.string().optional(),
  subject: z.string().optional(),
  senderName: z.string().optional(),
  senderEmail: z.string().optional(),
  senderSmtpAddress: z.string().optional(),
  body: z.string().optional(),
  clientSubmitTime: z.string().optional(),
  messageDeliveryTime: z.string().optional(),
  recipients: z
    .array(
      z.object({
        name: z.string().optional(),
        email: z.string().optional(),
        smtpAddress: z.string().optional(),
        recipType: z.string().optional(),
      }),
    )
    .default([]),
  attachments: z.array(z.looseObject({})).default([]),
});
const partSchema = z.object({ fileName: z.string(), content: z.instanceof(Uint8Array) });
/** The package is written for require(): what it exports as its default stands one step deeper when it is imported. */
function parseReader(module: typeof MsgReaderModule): typeof MsgReaderModule {
  return "default" in module ? (module.default as typeof MsgReaderModule) : module;
}
const Reader = parseReader(MsgReaderModule);

/** What a message file holds: who, what, its text, and its parts. */
export interface ReadMsg {
  readonly from: string;
  readonly to: string;
  readonly cc: string;
  readonly subject: string;
  readonly sentAt: string | null;
  readonly text: string;
  readonly parts: readonly { readonly fileName: string; readonly bytes: Uint8Array }[];
}

/** Reads a `.msg` file. Broken ones and those too large are answered with their problem. */
export async function readMsg(file: string): Promise<{ readonly problem: ReadOutcome } | { readonly message: ReadMsg }> {
  if ((await stat(file)).size > BYTES_MAX) return { problem: problemOnly("not-readable", "the message is too large to parse") };
  try {
    const bytes = await readFile(file);
    const reader = new Reader(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
    const data = dataSchema.parse(reader.getFileData());
    if (data.error !== undefined) return { problem: problemOnly("broken") };
    const parts = data.attachments.slice(0, PARTS_MAX).flatMap((_, i) => {
      const part = partSchema.safeParse(reader.getAttachment(i));
      return part.success ? [{ fileName: part.data.fileName, bytes: part.data.content }] : [];
    });
    const named = (name: string | undefined, address: string | undefined): string =>
      name && address && name !== address ? `${name} <${address}>` : (address ?? name ?? "");
    const to = (kind: string): string =>
      data.recipients
        .filter((r) => (r.recipType ?? "to") === kind)
        .slice(0, 50)
        .map((r) => named(r.name, r.smtpAddress ?? r.email))
        .join(", ");
    const sent = data.clientSubmitTime ?? data.messageDeliveryTime;
    return {
      message: {
        from: named(data.senderName, data.senderSmtpAddress ?? data.senderEmail),
        to: to("to"),
        cc: to("cc"),
        subject: (data.subject ?? "").replaceAll("\0", ""),
        sentAt: sent !== undefined && !Number.isNaN(Date.parse(sent)) ? new Date(sent).toISOString() : null,
        text: (data.body ?? "").replaceAll("\0", ""),
        parts,
      },
    };
  } catch {
    return { problem: problemOnly("broken") };
  }
}
