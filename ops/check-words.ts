import { readFile } from "node:fs/promises";
import path from "node:path";
import { projectRoot } from "./processes.ts";
import { trackedFiles } from "./tracked-files.ts";
import { retiredIn, textsOf } from "./words.ts";

/** Where a retired word is right, and why. */
const allowed: readonly { readonly file: RegExp; readonly text: RegExp; readonly why: string }[] = [
  { file: /^ops\/(?:check-)?words/, text: /./, why: "the list itself" },
  { file: /^src\/core\/reading\//, text: /./, why: "words that stand on foreign documents" },
];
/** Folders and files whose texts people read. */
const spoken = ["src/ui", "src/app", "src/core", "src/server", "src/worker", "standins", "scenario/set-up", "ops"];
/** Documentation for users and operators. */
const written = /^(?:README|CONTRIBUTING)\.md$|^docs\/(?:filing-plan|http-api|operating)\.md$/;

const isCommand = (file: string): boolean => file.startsWith("bin/");
const isSpoken = (file: string): boolean =>
  isCommand(file) || (spoken.some((s) => file.startsWith(`${s}/`)) && /\.tsx?$/.test(file) && !/\.test\.tsx?$|\.contract\.ts$/.test(file));
const files = trackedFiles().filter((file) => isSpoken(file) || written.test(file));
let wrong = 0;
for (const file of files) {
  const source = await readFile(path.join(projectRoot, file), "utf8").catch(() => "");
  // Commands and documents are read whole.
  const texts =
    file.endsWith(".md") || isCommand(file)
      ? source.split("\n").map((text, i) => ({ line: i + 1, text: text.replace(/`[^`]*`/g, "") }))
      : textsOf(file, source);
  for (const { line, text } of texts)
    for (const { word, use } of retiredIn(text)) {
      if (allowed.some((a) => a.file.test(file) && a.text.test(text))) continue;
      wrong++;
      console.error(`${file}:${line} “${word}”: write ${use}. In: ${text.slice(0, 120)}`);
    }
}
console.log(`${files.length} files read, ${wrong} retired words`);
process.exit(wrong > 0 ? 1 : 0);
