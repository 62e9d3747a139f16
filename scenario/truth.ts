import { writeFile } from "node:fs/promises";
import path from "node:path";
import { type Truth, waitingPapers } from "./papers/waiting-papers.ts";
import { makeWorld } from "./world.ts";

/** What is right for one waiting document, by its file name. */
export type TruthLine = { readonly fileName: string; readonly queue: string } & Truth;

/** What is right for every waiting document: for judging what the program says of them, and never read by it. */
export function truthOfWaiting(): readonly TruthLine[] {
  return waitingPapers(makeWorld()).map((p) => ({ fileName: p.fileName, queue: p.queue, ...p.truth }));
}

/** The truth as it stands in scenario/truth.json. */
export const truthText = (): string => `${JSON.stringify(truthOfWaiting(), null, 1)}\n`;

// `npm run truth` writes it again after the scenario was changed; a test says when that was forgotten.
if (process.argv[1] === import.meta.filename) await writeFile(path.join(import.meta.dirname, "truth.json"), truthText());
