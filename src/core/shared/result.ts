/**
 * The outcome of something that may be refused. A refusal is expected and is a value;
 * only outages and our own bugs are thrown.
 */
export type Result<T, R extends Refusal = Refusal> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly refusal: R };

/** Why something was not done: a stable code, and facts that help to say it. Never holds the contents of a document. */
export interface Refusal {
  readonly code: RefusalCode;
  readonly detail?: string;
  readonly errors?: readonly FieldError[];
}

/** One wrong value: where it stands in the input, and what is wrong with it. */
export interface FieldError {
  readonly path: string;
  readonly message: string;
}

/** Every refusal the program knows. The words for them are in refusals.ts. */
export type RefusalCode =
  | "bad-input"
  | "signed-out"
  | "not-found"
  | "not-allowed"
  | "stale"
  | "not-sure"
  | "claimed"
  | "too-large"
  | "no-file"
  | "cut-off"
  | "unknown-queue"
  | "unknown-type"
  | "unknown-record"
  | "no-folder-rule"
  | "no-clip"
  | "reaches-many"
  | "not-for-bench"
  | "name-taken"
  | "path-too-long"
  | "key-reused"
  | "still-there"
  | "not-readable"
  | "wrong-password"
  | "pack-empty"
  | "pack-gone"
  | "no-space"
  | "repository-away"
  | "repository-unreachable"
  | "repository-refused"
  | "repository-full"
  | "repository-address"
  | "repository-password"
  | "repository-rights"
  | "bucket-missing"
  | "not-proven"
  | "bytes-damaged"
  | "plan-state"
  | "no-secret"
  | "unavailable";

/** Wraps a value as a success. */
export function ok<T>(value: T): { readonly ok: true; readonly value: T } {
  return { ok: true, value };
}

/** Makes a refusal. `detail` is shown to people after the standard words of the code. */
export function refuse(
  code: RefusalCode,
  detail?: string,
  errors?: readonly FieldError[],
): { readonly ok: false; readonly refusal: Refusal } {
  return { ok: false, refusal: { code, ...(detail === undefined ? {} : { detail }), ...(errors === undefined ? {} : { errors }) } };
}
