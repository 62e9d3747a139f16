import { z } from "zod";
import { config } from "../settings/config.ts";

/** A draft as it is sent to the business system. */
export interface SentDraft {
  readonly company: string;
  readonly type: string;
  readonly title: string;
  readonly fields: Readonly<Record<string, string | null>>;
  readonly lines: readonly Readonly<Record<string, string>>[] | null;
  readonly parent: { readonly type: string; readonly key: string } | null;
  readonly follows: readonly { readonly type: string; readonly key: string }[];
  readonly paper: { readonly code: string } | null;
}

/** What the business system said; `unanswered` says nothing about whether it has entered it. */
export type DraftAnswer =
  | { readonly kind: "accepted"; readonly number: string; readonly status: string | null }
  | { readonly kind: "refused"; readonly reasons: readonly { readonly path: string; readonly message: string }[] }
  | { readonly kind: "unanswered"; readonly why: "unreachable" | "too-slow" | "failed" | "lets-nobody-in" | "not-set" };

/** Until an answer has to be there, ms. */
export const ANSWER_MS = 15_000;
/** Bytes of an answer that are read. */
const ANSWER_BYTES = 256 * 1024;

const acceptedSchema = z.object({ number: z.string().trim().min(1).max(120), status: z.string().max(60).nullish() });
const refusedSchema = z.object({
  errors: z
    .array(z.object({ path: z.string().max(200), message: z.string().max(500) }))
    .min(1)
    .max(100),
});

/**
 * Sends a draft to the business system over HTTP (`PUT {address}/api/drafts/{id}`): the same draft again is the same record there. Never throws; what is
 * not reachable is an answer of its own. The key is never logged.
 */
export async function sendToBusinessSystem(id: string, draft: SentDraft): Promise<DraftAnswer> {
  const { business } = config();
  if (business === null) return { kind: "unanswered", why: "not-set" };
  try {
    const response = await fetch(`${business.address.replace(/\/+$/, "")}/api/drafts/${id}`, {
      method: "PUT",
      headers: { "content-type": "application/json", authorization: `Bearer ${business.key}` },
      body: JSON.stringify(draft),
      signal: AbortSignal.timeout(ANSWER_MS),
      redirect: "error",
    });
    const text = await readSome(response);
    if (response.status === 401 || response.status === 403) return { kind: "unanswered", why: "lets-nobody-in" };
    const value: unknown = text === null ? null : parseJson(text);
    if (response.ok) {
      const accepted = acceptedSchema.safeParse(value);
      return accepted.success
        ? { kind: "accepted", number: accepted.data.number, status: accepted.data.status ?? null }
        : { kind: "unanswered", why: "failed" };
    }
    const refused = refusedSchema.safeParse(value);
    if (response.status >= 400 && response.status < 500 && refused.success) return { kind: "refused", reasons: refused.data.errors };
    return { kind: "unanswered", why: "failed" };
  } catch (error) {
    return { kind: "unanswered", why: error instanceof DOMException && error.name === "TimeoutError" ? "too-slow" : "unreachable" };
  }
}

async function readSome(response: Response): Promise<string | null> {
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  if (!response.body) return "";
  for await (const piece of response.body as unknown as AsyncIterable<Uint8Array>) {
    bytes += piece.length;
    if (bytes > ANSWER_BYTES) return null;
    pieces.push(piece);
  }
  return Buffer.concat(pieces).toString("utf8");
}

function parseJson(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return null;
  }
}
