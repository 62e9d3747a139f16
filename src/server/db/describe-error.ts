import { systemCode } from "../ports/system-code.ts";

/**
 * What may be logged of an error: name, code and where, never statements, parameters or values. Drizzle's own message
 * prints every parameter, and PostgreSQL's detail prints keys, so neither is used.
 */
export function describeError(error: unknown): string {
  const code = pgCode(error);
  if (code !== null) return `database error ${code}${constraintOf(error) === null ? "" : ` on ${constraintOf(error)}`}`;
  if (error instanceof Error) {
    const system = "code" in error && typeof error.code === "string" ? ` ${error.code}` : "";
    const isQuery = error.message.startsWith("Failed query");
    return `${error.name}${system}${isQuery ? "" : `: ${error.message.slice(0, 300)}`}${
      error.stack
        ? `\n${error.stack
            .split("\n")
            .filter((l) => l.trim().startsWith("at "))
            .slice(0, 6)
            .join("\n")}`
        : ""
    }`;
  }
  return "unknown error";
}

/** PostgreSQL's five-letter code of an error, also when drizzle wrapped it; null when it is none. */
export function pgCode(error: unknown): string | null {
  const found = pgField(error, "code");
  return found !== null && /^[0-9A-Z]{5}$/.test(found) ? found : null;
}

/** The constraint an error speaks of, or null. */
export function constraintOf(error: unknown): string | null {
  return pgField(error, "constraint");
}

/** Whether a unique constraint of this name was broken. */
export function isUniqueViolation(error: unknown, constraint?: string): boolean {
  return pgCode(error) === "23505" && (constraint === undefined || constraintOf(error) === constraint);
}

/** Whether the database ended one of two transactions that waited for each other: beginning again helps. */
export function isDeadlock(error: unknown): boolean {
  return pgCode(error) === "40P01";
}

/** Whether the database could not be reached or went away: worth trying again later. */
export function isOutage(error: unknown): boolean {
  const code = pgCode(error);
  // 08 connection, 53 out of something, 57P the server stops or starts, 58 the system beneath it.
  if (code !== null) return /^(08|53|57P|58)/.test(code);
  for (let e: unknown = error, depth = 0; typeof e === "object" && e !== null && depth < 5; e = "cause" in e ? e.cause : null, depth++) {
    if (["ECONNREFUSED", "ECONNRESET", "EPIPE", "ETIMEDOUT"].includes(systemCode(e) ?? "")) return true;
    if (
      "message" in e &&
      /Connection terminated|timeout exceeded when trying to connect|not queryable|connection error|server closed the connection/i.test(
        String(e.message),
      )
    )
      return true;
  }
  return false;
}

function pgField(error: unknown, name: "code" | "constraint"): string | null {
  for (let e: unknown = error, depth = 0; e !== null && typeof e === "object" && depth < 5; e = (e as { cause?: unknown }).cause, depth++) {
    const value = (e as Record<string, unknown>)[name];
    if (typeof value === "string" && "severity" in e) return value;
  }
  return null;
}
