import { createHash, randomUUID } from "node:crypto";
import { and, eq, sql } from "drizzle-orm";
import type { z } from "zod";
import { presentations } from "#core/shared/refusals.ts";
import type { FieldError, Refusal, RefusalCode, Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { describeError, isOutage } from "../db/describe-error.ts";
import { idempotency } from "../jobs/tables.ts";
import { type Actor, loadActor } from "../people/load-actor.ts";
import { systemCode } from "../ports/system-code.ts";
import { config } from "../settings/config.ts";
import { type Operation, type OperationName, operations } from "./operations.ts";

type Parsed<S> = S extends z.ZodType ? z.output<S> : undefined;
/** What a handler gets: who asks, and the checked input. */
export interface Asked<O extends Operation> {
  readonly actor: Actor;
  readonly request: Request;
  readonly params: Parsed<O["params"]>;
  readonly query: Parsed<O["query"]>;
  readonly body: Parsed<O["body"]>;
  /** Whether the request carried an idempotency key, and so may be the repeat of one whose answer was lost. */
  readonly mayBeRepeat: boolean;
}
type RouteContext = { params: Promise<Record<string, string | string[] | undefined> | undefined> };
type Answer = Response | Result<unknown>;

/** Bytes of a JSON body. */
const JSON_BYTES_MAX = 2 * 1024 * 1024;
/** Longest idempotency key. */
export const IDEMPOTENCY_KEY_MAX = 200;
/** How long a request with a key may be under way before another may take it over, ms. */
const TAKEN_OVER_AFTER_MS = 20_000;

/**
 * Makes a route's door: knows who asks, checks where they ask from and what they say, calls one function, and turns its outcome into an
 * answer. Refusals become problem documents (RFC 9457); what breaks is logged without contents and answered as 503 or 500.
 */
export function door<N extends OperationName>(
  name: N,
  handle: (asked: Asked<(typeof operations)[N]>) => Promise<Answer>,
): (request: Request, context: RouteContext) => Promise<Response> {
  const operation: Operation = operations[name];
  return async (request, context) => {
    try {
      const actor = operation.open ? NOBODY : await loadActor(request.headers);
      if (!actor) return problem({ code: "signed-out" });
      // A browser sends its cookie along whoever made the page, so only our own pages may change anything with it.
      if (
        operation.method !== "GET" &&
        !operation.open &&
        !request.headers.has("authorization") &&
        request.headers.get("origin") !== new URL(config().url).origin
      )
        return problem({ code: "not-allowed", detail: "The request came from another site." });
      const parsed = await parseInput(operation, request, context);
      if ("refusal" in parsed) return problem(parsed.refusal);
      const key = request.headers.get("idempotency-key");
      const asked = { actor, request, ...parsed, mayBeRepeat: key !== null } as Asked<(typeof operations)[N]>;
      const run = async (): Promise<Response> => answer(await handle(asked));
      // A streamed body cannot be fingerprinted; its door makes its own ids from the key.
      if (key === null || operation.method !== "POST" || operation.streams) return await run();
      return await once(actor, key, operation, request, parsed, run);
    } catch (error) {
      if (isOutage(error)) return problem({ code: "unavailable" });
      const code = systemCode(error);
      if (code === "repository-unreachable" || code === "repository-refused" || code === "repository-full") return problem({ code });
      if (code === "folder-moving") return problem({ code: "unavailable", detail: "The record's folder is being moved." });
      const id = randomUUID();
      console.error(`${operation.method} ${operation.path} ${id}: ${describeError(error)}`);
      return Response.json(
        {
          type: "about:blank",
          title: "Internal error",
          status: 500,
          detail: `Tell an administrator this number: ${id}`,
        },
        { status: 500, headers: { "content-type": "application/problem+json" } },
      );
    }
  };
}

/** Who asks at an open door: nobody, with no rights at all. */
const NOBODY = { id: "", name: "", email: "", roles: [], grants: [], queues: [] } as unknown as Actor;

/** A refusal as a problem document. */
export function problem(refusal: Refusal): Response {
  const words = presentations[refusal.code];
  const body = {
    type: `urn:amber-clip:${refusal.code}`,
    title: words.title,
    status: words.status,
    detail: [refusal.detail, words.next].filter(Boolean).join(" · "),
    code: refusal.code,
    ...(refusal.errors ? { errors: refusal.errors } : {}),
  };
  return Response.json(body, {
    status: words.status,
    headers: { "content-type": "application/problem+json", ...(words.status === 401 ? { "www-authenticate": "Bearer" } : {}) },
  });
}

function answer(outcome: Answer): Response {
  if (outcome instanceof Response) return outcome;
  return outcome.ok ? Response.json(outcome.value, { headers: { "cache-control": "no-store" } }) : problem(outcome.refusal);
}

async function parseInput(
  operation: Operation,
  request: Request,
  context: RouteContext,
): Promise<{ params: unknown; query: unknown; body: unknown } | { refusal: Refusal }> {
  const errors: FieldError[] = [];
  const check = (schema: z.ZodType | undefined, value: unknown, at: string): unknown => {
    if (!schema) return undefined;
    const parsed = schema.safeParse(value);
    if (parsed.success) return parsed.data;
    errors.push(...parsed.error.issues.map((i) => ({ path: [at, ...i.path.map(String)].filter(Boolean).join("."), message: i.message })));
    return undefined;
  };
  // Routes without a dynamic part get no params at all.
  const raw = (await context.params) ?? {};
  const params = check(operation.params, Object.fromEntries(Object.entries(raw).map(([k, v]) => [k, decode(String(v))])), "");
  if (errors.length > 0) return { refusal: { code: "not-found" } };
  const asked = [...new URL(request.url).searchParams].filter(([, v]) => v !== "");
  // The database has no place for this character, and no text that people write holds it.
  for (const [name, value] of asked) if (value.includes("\0")) errors.push({ path: name, message: "contains a null character" });
  if (Object.values(raw).some((v) => decode(String(v)).includes("\0"))) return { refusal: { code: "not-found" } };
  if (errors.length > 0) return { refusal: { code: "bad-input", errors } };
  const query = check(operation.query, Object.fromEntries(asked), "");
  let body: unknown;
  if (operation.body) {
    const text = await readText(request);
    if (text === null) return { refusal: { code: "too-large" } };
    if (/\0|\\u0000/.test(text)) return { refusal: { code: "bad-input", detail: "It contains a null character." } };
    try {
      body = check(operation.body, text === "" ? {} : JSON.parse(text), "");
    } catch {
      return { refusal: { code: "bad-input", detail: "The body is not JSON." } };
    }
  }
  return errors.length > 0 ? { refusal: { code: "bad-input", errors } } : { params, query, body };
}

function decode(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}

/** The text of a body; null when it is longer than allowed. */
export async function readText(request: Request, bytesMax = JSON_BYTES_MAX): Promise<string | null> {
  if (!request.body) return "";
  const pieces: Uint8Array[] = [];
  let bytes = 0;
  for await (const piece of request.body as unknown as AsyncIterable<Uint8Array>) {
    bytes += piece.length;
    if (bytes > bytesMax) return null;
    pieces.push(piece);
  }
  return Buffer.concat(pieces).toString("utf8");
}

/** Twice is once: the first answer to a key is kept and given again (promise 11). */
async function once(
  actor: Actor,
  key: string,
  operation: Operation,
  request: Request,
  input: { readonly body: unknown },
  run: () => Promise<Response>,
): Promise<Response> {
  if (key.length > IDEMPOTENCY_KEY_MAX)
    return problem({
      code: "bad-input",
      errors: [{ path: "Idempotency-Key", message: `is longer than ${IDEMPOTENCY_KEY_MAX} characters` }],
    });
  const fingerprint = createHash("sha256")
    .update(`${operation.method} ${new URL(request.url).pathname}\n${JSON.stringify(input.body ?? null)}`)
    .digest("hex");
  const mine = and(eq(idempotency.personId, actor.id), eq(idempotency.key, key));
  const claimed = await db()
    .insert(idempotency)
    .values({ personId: actor.id, key, fingerprint })
    .onConflictDoNothing()
    .returning({ key: idempotency.key });
  if (!claimed[0]) {
    const known = (await db().select().from(idempotency).where(mine))[0];
    if (known && known.fingerprint !== fingerprint) return problem({ code: "key-reused" });
    if (known?.status != null) return Response.json(known.answer, { status: known.status });
    const took = await db()
      .update(idempotency)
      .set({ madeAt: sql`now()` })
      .where(and(mine, sql`${idempotency.madeAt} < now() - ${TAKEN_OVER_AFTER_MS} * interval '1 millisecond'`))
      .returning({ key: idempotency.key });
    if (!took[0]) return problem({ code: "stale", detail: "The same request is still under way." });
  }
  try {
    const response = await run();
    if (response.status < 300)
      await db()
        .update(idempotency)
        .set({ status: response.status, answer: await response.clone().json() })
        .where(mine);
    else await db().delete(idempotency).where(mine);
    return response;
  } catch (error) {
    await db()
      .delete(idempotency)
      .where(mine)
      .catch(() => {});
    throw error;
  }
}

/** A page of a list as the API answers it: `next` is the cursor of the following page, null at the end. */
export function pageOf<T>(items: readonly T[], total: number, offset: number): { items: readonly T[]; next: string | null; total: number } {
  return { items, total, next: offset + items.length < total && items.length > 0 ? String(offset + items.length) : null };
}

/** A refusal made in a door. */
export function refused(code: RefusalCode): Result<never> {
  return { ok: false, refusal: { code } };
}
