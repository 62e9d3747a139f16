import path from "node:path";

/** The reader of office files, in steps from the project's folder, which every process of ours starts in. */
const SOURCE = ["src", "server", "reading", "office-child.ts"];

/** What Node is given to run the reader of office files as a process of its own: as it was built, where it was; else its source. */
export function officeProgram(): readonly string[] {
  const built = process.env["AMBER_PROGRAMS"];
  return built === undefined
    ? ["--import", import.meta.resolve("tsx"), path.join(/* turbopackIgnore: true */ process.cwd(), ...SOURCE)]
    : [path.join(/* turbopackIgnore: true */ built, "office-child.mjs")];
}
