import type { Preferences, PreferencesChange } from "#server/settings/load-settings.ts";

/** What the API said instead of doing it: words for people, and which fields were wrong. */
export class ApiProblem extends Error {
  readonly status: number;
  readonly code: string;
  readonly next: string;
  readonly errors: readonly { readonly path: string; readonly message: string }[];
  constructor(status: number, body: { title?: string; detail?: string; code?: string; errors?: { path: string; message: string }[] }) {
    super(body.title ?? "Something went wrong");
    this.status = status;
    this.code = body.code ?? "unknown";
    this.next = body.detail ?? "";
    this.errors = body.errors ?? [];
  }
}

const base = "/api/v1";

/** Reads from the API. Throws ApiProblem with words for people. */
export async function apiGet<T>(path: string, signal?: AbortSignal): Promise<T> {
  return answerOf<T>(await send(path, { signal: signal ?? null }));
}

const asJson = (method: string, body: unknown): RequestInit => ({
  method,
  body: JSON.stringify(body),
  headers: { "content-type": "application/json" },
});

/** Sends JSON to the API. Throws ApiProblem with words for people. */
export async function apiSend<T>(method: "POST" | "PUT" | "PATCH", path: string, body: unknown = {}, signal?: AbortSignal): Promise<T> {
  return answerOf<T>(await send(path, { ...asJson(method, body), signal: signal ?? null }));
}

/** Saves some of one's own preferences; those left out stay. The browser completes it although the page is left at once. */
export async function savePreferences(change: PreferencesChange): Promise<Preferences> {
  return answerOf<Preferences>(await send("/me/preferences", { ...asJson("PUT", change), keepalive: true }));
}

async function send(path: string, init: RequestInit): Promise<Response> {
  try {
    return await fetch(base + path, init);
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw new ApiProblem(0, {
      title: "No connection to the server",
      // What is asked for is asked for again by itself; what was sent is not, and may have come through.
      detail: init.method ? "It may or may not have been done. Check before you repeat it." : "Nothing is lost. It retries automatically.",
      code: "unreachable",
    });
  }
}

async function answerOf<T>(response: Response): Promise<T> {
  if (response.status === 401 && typeof window !== "undefined") {
    const { pathname, search } = window.location;
    // A whole load, not a route change: what was kept in memory belonged to whoever was signed in.
    window.location.assign(`/sign-in?to=${encodeURIComponent(pathname + search)}`);
  }
  if (!response.ok) throw new ApiProblem(response.status, await response.json().catch(() => ({})));
  return (await response.json()) as T;
}

/** Words of any error for people. */
export function wordsOf(error: unknown): { readonly title: string; readonly next: string } {
  if (error instanceof ApiProblem) {
    const fields = error.errors.map((e) => `${e.path.replace(/^properties\./, "")} ${e.message}`).join("; ");
    return { title: error.message, next: fields || error.next };
  }
  return { title: "Something went wrong", next: error instanceof Error ? error.message : "" };
}

/** Words of any error for people, in a line: what happened and what to do. */
export function sentenceOf(error: unknown): string {
  const { title, next } = wordsOf(error);
  return next === "" ? title : `${title.replace(/[.!?]$/, "")}. ${next}`;
}

/** A query string from what is set; empty when nothing is. */
export function queryOf(values: Readonly<Record<string, string | number | boolean | null | undefined>>): string {
  const query = new URLSearchParams();
  for (const [key, value] of Object.entries(values))
    if (value !== undefined && value !== null && value !== "" && value !== false) query.set(key, value === true ? "1" : String(value));
  const text = query.toString();
  return text === "" ? "" : `?${text}`;
}
