import { readFile } from "node:fs/promises";
import path from "node:path";
import { projectRoot } from "./processes.ts";
import { trackedFiles } from "./tracked-files.ts";

/** Where a path in a comment may begin, besides the folder of its own file. */
const roots = ["", "src/", "docs/"];
const tracked = trackedFiles();
const files = new Set(tracked);
const read = (file: string): Promise<string> => readFile(path.join(projectRoot, file), "utf8").catch(() => "");

/** The anchors that a renderer makes of a document's headings. */
const anchorsOf = (text: string): ReadonlySet<string> =>
  new Set(
    [...text.matchAll(/^#+ (.+)$/gm)].map(([, heading = ""]) =>
      heading
        .toLowerCase()
        .replace(/[^\p{L}\p{N} -]/gu, "")
        .trim()
        .replace(/ /g, "-"),
    ),
  );
const anchors = new Map<string, ReadonlySet<string>>();
for (const file of tracked.filter((f) => /^(?:docs\/.*|README|CONTRIBUTING)\.?.*\.md$/.test(f)))
  anchors.set(file, anchorsOf(await read(file)));
const promises = [...(await read("docs/promises.md")).matchAll(/^\| (\d+) \|/gm)].map(([, n]) => Number(n));

let wrong = 0;
const say = (file: string, line: number, what: string): void => {
  wrong++;
  console.error(`${file}:${line} ${what}`);
};
const isThere = (from: string, name: string): boolean =>
  roots.some((root) => files.has(root + name)) || files.has(path.posix.normalize(path.posix.join(path.posix.dirname(from), name)));

for (const file of tracked.filter((f) => /\.(?:tsx?|md)$/.test(f) && !f.startsWith("docs/decisions/"))) {
  const isDoc = file.endsWith(".md");
  (await read(file)).split("\n").forEach((line, i) => {
    const comment = isDoc ? line : (/(?:^\s*(?:\/\*\*?|\*|\/\/)|\s\/\/ |\/\*\* )(.*)$/.exec(line)?.[1] ?? "");
    // A file that is named: with a folder or as a document of ours.
    for (const [, name = ""] of comment.matchAll(/(?<![\w/.*$}()[\]-])((?:\.\/)?X\.(?:tsx?|md|scss))(?![\w*])/g))
      if (!isThere(file, name)) say(file, i + 1, `${name} is not there`);
    for (const [, name = "", anchor = ""] of comment.matchAll(/(docs\/[\w-]+\.md)#([\w-]+)/g))
      if (anchors.has(name) && !anchors.get(name)?.has(anchor)) say(file, i + 1, `${name} has no heading #${anchor}`);
    for (const [, number = ""] of comment.matchAll(/\bdecisions?[ /](\d{4})\b/g))
      if (!files.has(`docs/decisions/${number}.md`)) say(file, i + 1, `there is no decision ${number}`);
    for (const [, number = ""] of comment.matchAll(/\bpromise (\d+)\b/g))
      if (!promises.includes(Number(number))) say(file, i + 1, `docs/promises.md has no promise ${number}`);
    if (/\bcapabilit(?:y|ies) \d/.test(comment)) say(file, i + 1, "cites a capability number that no document here defines");
  });
}
console.log(`${tracked.length} files, ${wrong} dangling references`);
process.exit(wrong > 0 ? 1 : 0);
