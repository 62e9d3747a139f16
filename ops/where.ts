import { readdir } from "node:fs/promises";
import path from "node:path";
import { projectRoot } from "./processes.ts";

/** `npm run where -- clips`: every file of a word, on every floor. */
const word = process.argv[2]?.toLowerCase();
if (!word) {
  console.error("npm run where -- WORD");
  process.exit(1);
}
for (const top of ["src", "scenario", "ops", "e2e", "benchmarks", "docs"]) {
  const entries = await readdir(path.join(projectRoot, top), { recursive: true, withFileTypes: true }).catch(() => []);
  for (const file of entries
    .filter((e) => e.isFile())
    .map((e) => path.relative(projectRoot, path.join(e.parentPath, e.name)))
    .sort())
    if (file.toLowerCase().includes(word)) console.log(file);
}
