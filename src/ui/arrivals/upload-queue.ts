import { type IntakeLimits, refuseBeforeUpload } from "#core/arrivals/limits.ts";

/** Files sent side by side; the rest wait their turn. */
const AT_ONCE = 4;
/** Times a file is sent again when the connection breaks or the server is away. */
const TRIES = 5;
/** Waiting between tries, ms; times the number of the try. */
const AGAIN_MS = 600;

export interface UploadTarget {
  readonly queue: string;
  readonly company?: string | undefined;
  readonly record?: string | undefined;
  /** Said to people: where they go. */
  readonly label: string;
}
export interface Upload {
  readonly id: string;
  readonly name: string;
  readonly sizeBytes: number;
  readonly state: "waiting" | "sending" | "received" | "refused";
  readonly share: number;
  readonly why: string | null;
}
/** How one file is sent; answers why it was refused, null when it was taken in. Throws `again` errors to be tried again. */
export type SendFile = (
  file: File,
  id: string,
  target: UploadTarget,
  onShare: (share: number) => void,
  signal: AbortSignal,
) => Promise<string | null>;

/** A file on its way. `refused`: it only goes into the register, set aside for this reason. */
interface Waiting {
  readonly file: File;
  readonly id: string;
  readonly target: UploadTarget;
  readonly refused: string | null;
}

/** The files on their way in: a few at a time, tried again with the same key, so that nothing comes in twice. Lives outside the pages. */
export class UploadQueue {
  #uploads: readonly Upload[] = [];
  #waiting: Waiting[] = [];
  #running = 0;
  #stop = new AbortController();
  readonly #listeners = new Set<() => void>();
  readonly #send: SendFile;
  readonly #onTakenIn: () => void;
  readonly #register: RegisterRefused;

  constructor(send: SendFile, onTakenIn: () => void, register: RegisterRefused = registerRefused) {
    this.#send = send;
    this.#register = register;
    this.#onTakenIn = onTakenIn;
  }

  /** For React: tells when something changed. */
  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };
  /** For React: the same list until something changes. */
  snapshot = (): readonly Upload[] => this.#uploads;

  /** Adds files; those that break a limit are refused at once with the reason and never sent. */
  add(files: readonly File[], target: UploadTarget, limits: IntakeLimits): void {
    if (this.#stop.signal.aborted) this.#stop = new AbortController();
    const listed = files
      .slice(0, limits.filesMax)
      .map((file) => ({ file, id: crypto.randomUUID(), refusal: refuseBeforeUpload({ name: file.name, sizeBytes: file.size }, limits) }));
    const over = files.length - listed.length;
    this.#set([
      ...this.#uploads.filter((u) => u.state !== "received"),
      ...listed.map(({ file, id, refusal }) => ({
        id,
        name: file.name,
        sizeBytes: file.size,
        state: refusal ? ("refused" as const) : ("waiting" as const),
        share: 0,
        why: refusal?.words ?? null,
      })),
      ...(over > 0
        ? [
            {
              id: crypto.randomUUID(),
              name: `${over} more`,
              sizeBytes: 0,
              state: "refused" as const,
              share: 0,
              why: `At most ${limits.filesMax} files at once. Drop the rest separately.`,
            },
          ]
        : []),
    ]);
    this.#waiting.push(
      ...listed
        .filter((l) => l.refusal === null || l.refusal.isRegistered)
        .map(({ file, id, refusal }) => ({ file, id, target, refused: refusal?.words ?? null })),
    );
    this.#pump();
  }

  /** Stops: what is on its way is broken off, what waits is not sent. What was taken in stays. */
  stop(): void {
    for (const left of this.#waiting.splice(0)) this.#patch(left.id, { state: "refused", why: "Cancelled before it was sent." });
    this.#stop.abort();
  }

  /** Forgets the list; only when nothing is on its way. */
  clear(): void {
    if (this.#running === 0 && this.#waiting.length === 0) this.#set([]);
  }

  #pump(): void {
    while (this.#running < AT_ONCE && this.#waiting.length > 0) {
      const next = this.#waiting.shift();
      if (!next) return;
      this.#running++;
      void this.#sendOne(next).finally(() => {
        this.#running--;
        if (this.#running === 0 || this.#waiting.length % 20 === 0) this.#onTakenIn();
        this.#pump();
      });
    }
  }

  async #sendOne({ file, id, target, refused }: Waiting): Promise<void> {
    const signal = this.#stop.signal;
    if (refused !== null) {
      const isListed = await this.#register(file, id, target, refused, signal).catch(() => false);
      if (isListed) this.#patch(id, { why: `${refused} It is set aside in the register.` });
      return;
    }
    this.#patch(id, { state: "sending" });
    for (let attempt = 1; ; attempt++) {
      try {
        const why = await this.#send(file, id, target, (share) => this.#patch(id, { share }), signal);
        this.#patch(id, why === null ? { state: "received", share: 1 } : { state: "refused", why });
        return;
      } catch {
        if (signal.aborted || attempt >= TRIES) {
          this.#patch(id, {
            state: "refused",
            why: signal.aborted ? "Stopped." : "No connection to the server. Drop it again; duplicates are recognised.",
          });
          return;
        }
        await new Promise((resolve) => setTimeout(resolve, AGAIN_MS * attempt));
      }
    }
  }

  #patch(id: string, change: Partial<Upload>): void {
    this.#set(this.#uploads.map((u) => (u.id === id ? { ...u, ...change } : u)));
  }

  #set(uploads: readonly Upload[]): void {
    this.#uploads = uploads;
    for (const listener of this.#listeners) listener();
  }
}

/** Enters a file that is refused into the register, set aside with the reason; answers whether it stands there. */
export type RegisterRefused = (file: File, id: string, target: UploadTarget, why: string, signal: AbortSignal) => Promise<boolean>;

export const registerRefused: RegisterRefused = async (file, id, target, why, signal) => {
  const taken = await fetch("/api/v1/arrivals", {
    method: "POST",
    headers: { "Idempotency-Key": id },
    body: formOf(file, target),
    signal,
  });
  if (!taken.ok) return false;
  const { id: arrival } = (await taken.json()) as { id: string };
  const aside = await fetch(`/api/v1/arrivals/${arrival}/set-aside`, {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ reason: why }),
    signal,
  });
  return aside.ok;
};

function formOf(file: File, target: UploadTarget): FormData {
  const form = new FormData();
  form.set("queue", target.queue);
  form.set("source", "drop");
  if (target.company) form.set("company", target.company);
  if (target.record) form.set("record", target.record);
  // The file goes last, so that the server knows what it is for before its bytes come.
  form.set("file", file, file.name);
  return form;
}

/** Sends a file to the API with progress. A broken connection or a server that is away throws, to be tried again. */
export const sendFile: SendFile = (file, id, target, onShare, signal) =>
  new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", "/api/v1/arrivals");
    request.setRequestHeader("Idempotency-Key", id);
    request.upload.onprogress = (e) => e.lengthComputable && onShare(e.loaded / e.total);
    request.onload = () =>
      request.status === 201
        ? resolve(null)
        : request.status >= 500 && request.status !== 507
          ? reject(new Error("again"))
          : resolve(problemText(request.responseText));
    request.onerror = () => reject(new Error("again"));
    request.onabort = () => reject(new Error("stopped"));
    signal.addEventListener("abort", () => request.abort());
    request.send(formOf(file, target));
  });

function problemText(text: string): string {
  try {
    const body = JSON.parse(text) as { title?: string; detail?: string };
    return [body.title, body.detail].filter(Boolean).join(". ") || "It was not received.";
  } catch {
    return "It was not received. Drop it again.";
  }
}
