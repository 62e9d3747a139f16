import { execFileSync } from "node:child_process";
import { projectRoot } from "./processes.ts";

/** The project's files by their path from its root: those in git and new ones that git does not ignore. */
export const trackedFiles = (): readonly string[] =>
  execFileSync("git", ["ls-files", "--cached", "--others", "--exclude-standard"], { cwd: projectRoot, encoding: "utf8" })
    .split("\n")
    .filter((file) => file !== "");
