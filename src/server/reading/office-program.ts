import { existsSync } from "node:fs";
import path from "node:path";

/** The reader of office files, in steps from the project's folder, which every process of ours starts in. */
const SOURCE = ["src", "server", "reading", "office-child.ts"];

/**
 * What Node is given to run the reader of office files as a process of its own: as it was built, where that is there; else its source. Looked for each
 * time: a build that is being made again must not make a sound document look broken.
 */
export function officeProgram(): readonly string[] {
  const folder = process.env["AMBER_PROGRAMS"];
  const built = folder === undefined ? null : path.join(/* turbopackIgnore: true */ folder, "office-child.mjs");
  return built !== null && existsSync(built)
    ? [built]
    : ["--import", import.meta.resolve("tsx"), path.join(/* turbopackIgnore: true */ process.cwd(), ...SOURCE)];
}
