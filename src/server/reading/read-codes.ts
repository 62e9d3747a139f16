import path from "node:path";
import { Worker } from "node:worker_threads";
import { z } from "zod";
import { CODE_TEXT_MAX, CODES_PAGE_MAX } from "#core/codes/page-code.ts";
import type { Grey } from "#core/pages/grey.ts";
import { AppError } from "../ports/app-error.ts";

/** Where the thread's code stands in the project, in steps. */
const THREAD = ["src", "server", "reading", "codes-thread.mjs"];
/** Longest time for one page, ms; a picture made to be slow ends its thread, and the next page gets a new one. */
const TIMEOUT_MS = 20_000;

const answerSchema = z.union([
  z.object({ id: z.number(), failed: z.string() }),
  z.object({
    id: z.number(),
    codes: z.array(z.object({ format: z.string(), text: z.string(), corners: z.array(z.tuple([z.number(), z.number()])) })),
  }),
]);

/** A barcode on a picture: its box in dots from the top left. */
export interface FoundCode {
  readonly format: string;
  readonly text: string;
  readonly box: readonly [number, number, number, number];
}

interface Thread {
  readonly worker: Worker;
  busy: boolean;
}
const threads: Thread[] = [];
let nextId = 1;

/**
 * Reads all barcodes off a page's picture, in a thread of their own: straight, turned, faint. A picture that takes too long has none. As many
 * threads are kept as pages are looked at side by side; they end with the process.
 */
export async function readCodes(grey: Grey): Promise<readonly FoundCode[]> {
  const thread = threads.find((t) => !t.busy) ?? startThread();
  thread.busy = true;
  thread.worker.ref();
  try {
    return await ask(thread, grey);
  } finally {
    thread.busy = false;
    thread.worker.unref();
  }
}

function ask(thread: Thread, grey: Grey): Promise<readonly FoundCode[]> {
  const id = nextId++;
  return new Promise((resolve, reject) => {
    const done = (act: () => void): void => {
      clearTimeout(timer);
      thread.worker.off("message", heard);
      thread.worker.off("error", broke);
      act();
    };
    const drop = (): void => {
      const at = threads.indexOf(thread);
      if (at !== -1) threads.splice(at, 1);
      void thread.worker.terminate();
    };
    const heard = (value: unknown): void => {
      const answer = answerSchema.parse(value);
      if (answer.id !== id) return;
      done(() => {
        if ("failed" in answer) resolve([]);
        else
          resolve(
            answer.codes
              .slice(0, CODES_PAGE_MAX)
              .map((c) => ({ format: c.format, text: c.text.slice(0, CODE_TEXT_MAX).replaceAll("\0", ""), box: boxOf(c.corners) })),
          );
      });
    };
    const broke = (error: unknown): void => {
      drop();
      done(() => reject(new AppError("codes-failed", "later", "the thread that reads barcodes ended", error)));
    };
    const timer = setTimeout(() => {
      drop();
      done(() => resolve([]));
    }, TIMEOUT_MS);
    thread.worker.on("message", heard);
    thread.worker.on("error", broke);
    thread.worker.postMessage({ id, width: grey.width, height: grey.height, data: grey.data });
  });
}

function startThread(): Thread {
  // By its path in the project, as the launcher of outside programs: bundled code stands somewhere else than its source.
  const worker = new Worker(path.join(/* turbopackIgnore: true */ process.cwd(), ...THREAD));
  worker.setMaxListeners(50);
  const thread: Thread = { worker, busy: false };
  threads.push(thread);
  return thread;
}

function boxOf(corners: readonly (readonly [number, number])[]): readonly [number, number, number, number] {
  const [xs, ys] = [corners.map((c) => c[0]), corners.map((c) => c[1])];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  return [left, top, Math.max(...xs) - left, Math.max(...ys) - top];
}
