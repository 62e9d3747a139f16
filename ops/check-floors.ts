import { readdir, readFile } from "node:fs/promises";
import path from "node:path";
import { projectRoot } from "./processes.ts";

/** What may not stand in the core: time and chance come in as arguments. */
const impure: readonly (readonly [RegExp, string])[] = [
  [/\bDate\.now\b/, "Date.now"],
  [/\bnew Date\(\s*\)/, "new Date()"],
  [/\bMath\.random\b/, "Math.random"],
  [/\bprocess\./, "process"],
  [/\bcrypto\.random/, "crypto.random"],
];
/** What may not stand in a component: colours are written in the theme only. */
const colour = /["'`:\s]#[0-9a-fA-F]{3,8}\b(?!\/)/;

let wrong = 0;
let looked = 0;
const say = (file: string, line: number, what: string): void => {
  wrong++;
  console.error(`${file}:${line} ${what}`);
};

for (const floor of ["core", "ui", "server", "app", "worker"]) {
  const folder = path.join(projectRoot, "src", floor);
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile() || !/\.tsx?$/.test(entry.name)) continue;
    const file = path.join(entry.parentPath, entry.name);
    const name = path.relative(projectRoot, file);
    const isTest = /\.test\.tsx?$/.test(entry.name);
    looked++;
    (await readFile(file, "utf8")).split("\n").forEach((line, i) => {
      if (floor === "core" && !isTest)
        for (const [pattern, what] of impure) if (pattern.test(line)) say(name, i + 1, `${what} in the core: take it as an argument`);
      if (floor === "ui" && !isTest && colour.test(line) && !/href|#core|#server|#ui/.test(line))
        say(name, i + 1, "a colour outside the theme");
      if (/\bas any\b|: any\b|@ts-ignore/.test(line)) say(name, i + 1, "a loosened type");
      if (floor !== "app" && /^export default\b/.test(line)) say(name, i + 1, "a default export");
      if (/\bserver-only\b/.test(line)) say(name, i + 1, "server-only throws in the worker; the floors keep it apart");
    });
    if (/^index\.tsx?$/.test(entry.name)) say(name, 1, "a barrel file");
  }
}
if (looked < 50) say("src", 0, "too few files were looked at");
console.log(`${looked} files looked at, ${wrong} wrong`);
process.exit(wrong > 0 ? 1 : 0);
