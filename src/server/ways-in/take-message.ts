import { createReadStream } from "node:fs";
import PostalMime from "postal-mime";
import { codesInSubject, type MailTarget, readMailChecks } from "#core/arrivals/mail-in.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { ok, type Result } from "#core/shared/result.ts";
import { isJunkSender } from "../arrivals/junk.ts";
import { db } from "../db/connect.ts";
import { enterArrival, idFrom, tidyFileName } from "../arrivals/receive.ts";
import { landingStore } from "../ports/adapters.ts";
import type { Landed } from "../ports/landing-store.ts";
import { PROGRAM } from "../timeline/write-lines.ts";
import { tieCodes } from "./tie-codes.ts";

/** Bytes of a message in which its head has to end; a longer head is read only so far. */
const HEAD_BYTES_MAX = 256 * 1024;
const SUBJECT_MAX = 160;
const SENDER_MAX = 300;

/** Whom a message is from by its envelope, and where it is to go. */
export interface Envelope {
  readonly from: string;
  readonly targets: readonly MailTarget[];
}

/**
 * Takes a kept message in: one arrival in each queue it was sent to, tied to a record when its address or subject holds the code of exactly one
 * record or document. The same message again is the same arrival, so that a sender who did not hear our answer may send it once more. Its parts
 * become arrivals when it is read. Refuses nothing but what `enterArrival` refuses.
 */
export async function takeMessage(envelope: Envelope, landed: Landed): Promise<Result<{ ids: readonly string[] }>> {
  const head = await readHead(landed.sha256);
  const told = readMailChecks(head.headers);
  const checks =
    told.junk === null && (await isJunkSender(db(), head.from || envelope.from)) ? { ...told, junk: "marked as junk sender" } : told;
  const ids: string[] = [];
  for (const target of envelope.targets) {
    const tied = await tieCodes(target.code === null ? codesInSubject(head.subject) : [target.code]);
    const entered = await enterArrival({
      // Of the message and the queue, and not of the envelope: the same bytes are the same message.
      id: idFrom("mail", `${target.queue}\n${landed.sha256}`),
      landed,
      company: tied?.company ?? null,
      queue: target.queue,
      source: "mail",
      sender: (head.from || envelope.from).slice(0, SENDER_MAX) || null,
      // What the sender wrote, and nothing of whether it is there: who sees the queue may not see the record (promise 6).
      note: target.code === null ? null : `About ${target.code}`,
      fileName: tidyFileName(`${head.subject.replace(/[/\\]/g, "-").slice(0, SUBJECT_MAX).trim() || "Message"}.eml`),
      recordId: tied?.recordId ?? null,
      documentType: null,
      receivedBy: PROGRAM,
      mail: { ...checks, to: target.queue, code: target.code },
    });
    if (!entered.ok) return entered;
    ids.push(entered.value.id);
  }
  return ok({ ids });
}

async function readHead(sha256: Sha256) {
  const pieces: Buffer[] = [];
  let bytes = 0;
  for await (const piece of createReadStream(landingStore().pathOf(sha256), { end: HEAD_BYTES_MAX - 1 })) {
    pieces.push(piece as Buffer);
    bytes += (piece as Buffer).length;
  }
  const all = Buffer.concat(pieces, bytes);
  const end = /\r?\n\r?\n/.exec(all.toString("latin1"));
  try {
    const mail = await PostalMime.parse(all.subarray(0, end ? end.index + end[0].length : bytes));
    const from = mail.from?.name ? `${mail.from.name} <${mail.from.address ?? ""}>` : (mail.from?.address ?? "");
    return { headers: mail.headers, subject: (mail.subject ?? "").replace(/\s+/g, " ").trim(), from };
  } catch {
    // A head that cannot be read is no reason to lose the message: its arrival says what is wrong once it is read.
    return { headers: [], subject: "", from: "" };
  }
}
