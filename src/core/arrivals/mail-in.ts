import { z } from "zod";

/** What is kept of a message that comes in by mail: the message and its parts, its parts only (the message then stays in the register), or what a person says of each. */
export const mailKeeps = ["messageAndParts", "partsOnly", "ask"] as const;
/** What a person can say of a message whose queue asks. */
export const mailAnswers = ["messageAndParts", "partsOnly", "messageOnly"] as const;
export type MailAnswer = (typeof mailAnswers)[number];
export type MailKeeps = (typeof mailKeeps)[number];

/** How one queue takes mail. */
export const queueMailSchema = z.object({
  keeps: z.enum(mailKeeps),
  /** Who may send here: whole addresses, or `@domain` for everybody there. Nobody named: open to all. */
  senders: z
    .array(
      z
        .string()
        .trim()
        .toLowerCase()
        .max(200)
        .regex(/^[^\s@]*@[^\s@]+$/, "must be an address, or @domain"),
    )
    .max(200),
});
export type QueueMail = z.infer<typeof queueMailSchema>;

/** Where a message is to go: its queue, and the code behind a plus sign that ties it to a record or document. */
export interface MailTarget {
  readonly queue: string;
  readonly code: string | null;
}

/** Reads an address like `payables@papers.example` or `payables+PO-6127@papers.example`; null when it is none of ours. Capitals do not matter. */
export function readMailAddress(address: string, domain: string, queues: readonly string[]): MailTarget | null {
  const at = address.lastIndexOf("@");
  if (at <= 0 || address.slice(at + 1).toLowerCase() !== domain.toLowerCase()) return null;
  const local = address.slice(0, at);
  const plus = local.indexOf("+");
  const name = (plus === -1 ? local : local.slice(0, plus)).toLowerCase();
  const queue = queues.find((q) => q.toLowerCase() === name);
  if (queue === undefined) return null;
  const code = plus === -1 ? "" : local.slice(plus + 1).trim();
  return { queue, code: code === "" ? null : code };
}

/** The bare address of a sender like `Name <name@house.example>`, in small letters; null when there is none in it. */
export function addressOf(sender: string): string | null {
  const found = /<([^<>\s]{3,200})>\s*$/.exec(sender)?.[1] ?? sender.trim();
  return /^[^\s@<>]+@[^\s@<>]+$/.test(found) && found.length <= 200 ? found.toLowerCase() : null;
}

/** Whether somebody may send to a queue. */
export function allowsSender(senders: readonly string[], address: string): boolean {
  if (senders.length === 0) return true;
  const from = address.trim().toLowerCase();
  return senders.some((s) => (s.startsWith("@") ? from.endsWith(s) : from === s));
}

/** Words of a subject that may be the code of a record or document: they hold a digit, and are no date, time or bare small number. Each once, in order. */
export function codesInSubject(subject: string): readonly string[] {
  const words = subject
    .slice(0, 500)
    .split(/[\s,;:()[\]{}<>"'#]+/)
    .map((w) => w.replace(/^[.\-/]+|[.\-/!?]+$/g, ""))
    .filter((w) => w.length >= 4 && w.length <= 40 && /\d/.test(w))
    .filter((w) => !/^\d{1,4}$/.test(w) && !/^\d{1,4}[./-]\d{1,2}[./-]\d{1,4}$/.test(w));
  return [...new Set(words)].slice(0, 12);
}

/** What a relay found out about a sender. */
export interface MailChecks {
  readonly spf: string | null;
  readonly dkim: string | null;
  /** Why it may be junk; null when nothing says so. It is marked and stays. */
  readonly junk: string | null;
}

/**
 * Reads what the relay in front of us wrote into a message (RFC 8601, and the headers that filters commonly add). Only the first
 * Authentication-Results counts: relays put theirs on top, further ones may have been written by anybody.
 */
export function readMailChecks(headers: readonly { readonly key: string; readonly value: string }[]): MailChecks {
  const first = (name: string): string | null => headers.find((h) => h.key.toLowerCase() === name)?.value ?? null;
  const results = first("authentication-results") ?? "";
  const result = (method: string): string | null =>
    new RegExp(`(?:^|[;\\s])${method}\\s*=\\s*([a-z]+)`, "i").exec(results)?.[1]?.toLowerCase() ?? null;
  const [spf, dkim] = [result("spf"), result("dkim")];
  const flagged = /^\s*yes/i.test(first("x-spam-flag") ?? "") || /^\s*yes/i.test(first("x-spam-status") ?? "");
  const junk = flagged
    ? "the mail server marked it as junk"
    : spf === "fail" && dkim !== "pass"
      ? "the sender could not be verified"
      : null;
  return { spf, dkim, junk };
}
