import { spawn } from "node:child_process";
import path from "node:path";
import { projectRoot } from "#ops/processes.ts";
import { expect, test } from "./support/world.ts";

test("every part of the benchmark runs, with sizes that say nothing, and prints its figures", async () => {
  // It fills a demo world of its own, beside everything else that is tested.
  test.setTimeout(25 * 60_000);
  const child = spawn(path.join(projectRoot, "bin/benchmark"), ["--tiny"], { cwd: projectRoot, stdio: ["ignore", "pipe", "pipe"] });
  let [out, err] = ["", ""];
  child.stdout.on("data", (piece: Buffer) => (out += piece.toString()));
  child.stderr.on("data", (piece: Buffer) => (err += piece.toString()));
  const code = await new Promise((ended) => child.once("close", ended));
  expect(code, err.slice(-3000)).toBe(0);
  const lines = out
    .trim()
    .split("\n")
    .map((line) => JSON.parse(line) as Record<string, unknown>);
  expect(new Set(lines.map((l) => l["bench"])).size).toBeGreaterThan(30);
  // A figure that is no number is written as null.
  expect(lines.filter((l) => Object.values(l).flat().includes(null))).toEqual([]);
});
