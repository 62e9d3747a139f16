/** Something broke that a person cannot help: an outage or our own bug. `retry` says whether trying again can help. */
export class AppError extends Error {
  readonly code: string;
  readonly retry: "later" | "never";
  constructor(code: string, retry: "later" | "never", message: string, cause?: unknown) {
    super(message, cause === undefined ? undefined : { cause });
    this.name = "AppError";
    this.code = code;
    this.retry = retry;
  }
}
