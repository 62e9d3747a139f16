/**
 * The code of a system or library error, such as ENOENT; null when it has none. Asks for the code and not for the class: an error
 * from another realm (a worker, a test's own world) is no `instanceof Error`.
 */
export function systemCode(error: unknown): string | null {
  return typeof error === "object" && error !== null && "code" in error && typeof error.code === "string" ? error.code : null;
}
