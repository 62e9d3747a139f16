import { setTimeout as pause } from "node:timers/promises";
import { AppError } from "../app-error.ts";

/** Times something is tried at a repository behind a line before it is said to be away. */
const TRIES = 3;
const WAIT_MS = 120;

/** Runs something at a repository behind a line; a dropped line or a server out of breath is tried again, since everything there may be asked twice. */
export async function steady<T>(act: () => Promise<T>): Promise<T> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await act();
    } catch (error) {
      const known = asRemoteError(error);
      if (attempt >= TRIES || !(known instanceof AppError) || known.code !== "repository-unreachable") throw known;
      await pause(WAIT_MS * attempt ** 2);
    }
  }
}

/** Status of an answer that a client library threw, or null. */
export function statusOf(error: unknown): number | null {
  if (typeof error !== "object" || error === null) return null;
  if ("status" in error && typeof error.status === "number") return error.status;
  if ("$metadata" in error) return (error.$metadata as { httpStatusCode?: number }).httpStatusCode ?? null;
  return null;
}

/** Gives errors of a client library the codes that the port promises. Messages are not carried over: they hold addresses. */
export function asRemoteError(error: unknown): unknown {
  if (error instanceof AppError) return error;
  const status = statusOf(error);
  if (status === 507 || status === 413) return new AppError("repository-full", "later", `status ${status}`);
  if (status === 401 || status === 403) return new AppError("repository-refused", "later", `status ${status}`);
  if (status === null || status >= 500 || status === 408 || status === 423 || status === 429)
    return new AppError("repository-unreachable", "later", status === null ? nameOf(error) : `status ${status}`);
  return error;
}

function nameOf(error: unknown): string {
  return error instanceof Error ? error.name : "unknown";
}

const waiting = new Map<string, Promise<unknown>>();

/**
 * Runs things that concern one place one after the other within this process, for servers that cannot be trusted to refuse a second. Between
 * processes the lock on the path in the database does it.
 */
export async function oneAtATime<T>(place: string, act: () => Promise<T>): Promise<T> {
  const before = waiting.get(place) ?? Promise.resolve();
  const mine = before.then(act, act);
  waiting.set(place, mine);
  try {
    return await mine;
  } finally {
    if (waiting.get(place) === mine) waiting.delete(place);
  }
}
