import { createHmac, timingSafeEqual } from "node:crypto";
import { eq } from "drizzle-orm";
import { z } from "zod";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { programActor } from "../people/program-actor.ts";
import { now } from "../ports/clock.ts";
import { loadRecordType } from "../records/load-types.ts";
import { KEY_MAX, recordInputSchema, upsertIn } from "../records/upsert-record.ts";
import { config } from "../settings/config.ts";
import { settleIn } from "./settle-draft.ts";
import { company as companies } from "../people/tables.ts";
import { businessEvent } from "./tables.ts";

/** A message older than this, or as far ahead, is not believed: it may have been recorded and played again. Seconds. */
export const BELIEVED_SECONDS = 300;
/** Bytes of a message. */
export const EVENT_BYTES_MAX = 2 * 1024 * 1024;

const reference = z.object({ type: z.string().max(40), key: z.string().min(1).max(KEY_MAX) });
/** What the business system tells: a record as it is now, and the draft that it was made from. */
export const eventSchema = z.object({
  id: z.uuid(),
  kind: z.literal("record"),
  draft: z.uuid().nullish(),
  record: z.object({
    company: z.string().min(1).max(20),
    type: z.string().min(1).max(40),
    key: z.string().min(1).max(KEY_MAX),
    title: z.string().min(1).max(300),
    status: z.string().max(60).nullish(),
    fields: z.record(z.string(), z.unknown()),
    lines: z.unknown().optional(),
    parent: reference.nullish(),
    follows: z.array(reference).max(50).default([]),
  }),
});

/** Whether a message is the business system's own: HMAC-SHA256 over its time and bytes, and its time is now. */
export function isSigned(secret: string, at: string, body: string, signature: string, nowSeconds: number): boolean {
  if (!/^\d{1,12}$/.test(at) || Math.abs(Number(at) - nowSeconds) > BELIEVED_SECONDS) return false;
  const given = Buffer.from(/^sha256=([0-9a-f]{64})$/.exec(signature)?.[1] ?? "", "hex");
  const made = createHmac("sha256", secret).update(`${at}.${body}`).digest();
  return given.length === made.length && timingSafeEqual(given, made);
}

/**
 * Takes a message of the business system: a record that was entered, posted or changed there. One that was made from a draft of ours is that draft's record,
 * whatever its number. Twice is once, by the message's id. Refuses not-allowed (no or a wrong signature), bad-input, unknown-type, unknown-record.
 */
export async function takeEvent(headers: Headers, body: string): Promise<Result<{ readonly taken: boolean }>> {
  const secret = config().businessSecret;
  const isOurs =
    secret !== null &&
    isSigned(secret, headers.get("x-event-time") ?? "", body, headers.get("x-event-signature") ?? "", Math.floor(now().getTime() / 1000));
  if (!isOurs) return refuse("not-allowed");
  let value: unknown;
  try {
    value = JSON.parse(body);
  } catch {
    return refuse("bad-input", "The body is not JSON.");
  }
  const parsed = eventSchema.safeParse(value);
  if (!parsed.success)
    return refuse(
      "bad-input",
      undefined,
      parsed.error.issues.map((i) => ({ path: i.path.join("."), message: i.message })),
    );
  const { id, draft: draftId, record: told } = parsed.data;
  const { company, type: typeKey, key, ...rest } = told;
  const type = await loadRecordType(typeKey);
  if (!type) return refuse("unknown-type", typeKey);
  const known = await db().select({ code: companies.code }).from(companies).where(eq(companies.code, company));
  if (known.length === 0) return refuse("bad-input", undefined, [{ path: "record.company", message: "is not known here" }]);
  const input = recordInputSchema.safeParse(rest);
  if (!input.success)
    return refuse(
      "bad-input",
      undefined,
      input.error.issues.map((i) => ({ path: `record.${i.path.join(".")}`, message: i.message })),
    );
  try {
    return await db().transaction(async (tx) => {
      const fresh = await tx.insert(businessEvent).values({ id, takenAt: now() }).onConflictDoNothing().returning({ id: businessEvent.id });
      if (fresh.length === 0) return ok({ taken: false });
      if (draftId) await settleIn(tx, draftId, key, told.status ?? null);
      const saved = await upsertIn(tx, programActor(), company, type, key, input.data);
      // A message that could not be carried out was not taken: it may be sent again.
      if (!saved.ok) throw new NotTaken(saved);
      return ok({ taken: true });
    });
  } catch (error) {
    if (error instanceof NotTaken) return error.outcome;
    throw error;
  }
}

class NotTaken extends Error {
  constructor(readonly outcome: Extract<Result<never>, { ok: false }>) {
    super("not taken");
  }
}
