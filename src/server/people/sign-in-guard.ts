import { createHash } from "node:crypto";
import { APIError, createAuthMiddleware } from "better-auth/api";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { db } from "../db/connect.ts";

/** Wrong passwords in a row for one mail address before it has to wait. */
export const FAILURES_MAX = 8;
/** How long it then has to wait, counted from the last failure, ms. */
const WAIT_MS = 15 * 60_000;

const SIGN_IN = "/sign-in/email";
const bodySchema = z.object({ email: z.string().max(320) });

/**
 * Guessing is slowed down for each mail address, not for each address on the network: a whole office signs in through one of those at
 * eight in the morning. Whether there is such a person makes no difference to the answer.
 */
export const refuseAfterFailures = createAuthMiddleware(async (context) => {
  const key = context.path === SIGN_IN ? keyOf(context.body) : null;
  if (key === null) return;
  const found = await db().execute<{ count: number }>(
    sql`select count from rate_limit where key = ${key} and last_request > ${Date.now() - WAIT_MS}`,
  );
  if ((found.rows[0]?.count ?? 0) >= FAILURES_MAX) throw new APIError("TOO_MANY_REQUESTS", { message: "Too many tries" });
});

/** Counts a failure; a success forgets them. */
export const countFailures = createAuthMiddleware(async (context) => {
  const key = context.path === SIGN_IN ? keyOf(context.body) : null;
  if (key === null) return;
  if (context.context.newSession) await db().execute(sql`delete from rate_limit where key = ${key}`);
  else if (context.context.returned instanceof APIError && context.context.returned.status === "UNAUTHORIZED") {
    await db().execute(sql`insert into rate_limit (id, key, count, last_request) values (${key}, ${key}, 1, ${Date.now()})
      on conflict (key) do update set last_request = excluded.last_request,
        count = case when rate_limit.last_request > ${Date.now() - WAIT_MS} then rate_limit.count + 1 else 1 end`);
  }
});

function keyOf(body: unknown): string | null {
  const parsed = bodySchema.safeParse(body);
  return parsed.success ? `failed:${createHash("sha256").update(parsed.data.email.trim().toLowerCase()).digest("hex")}` : null;
}
