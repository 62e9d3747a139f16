import { spawn } from "node:child_process";
import { mkdtemp, readFile, rm } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { startCluster } from "./postgres.ts";
import { freePort, projectRoot } from "./processes.ts";

const all = ["lint", "types", "floors", "unit", "db", "e2e"] as const;
type Part = (typeof all)[number];
const wanted = process.argv.slice(2).filter((a): a is Part => (all as readonly string[]).includes(a));
const parts: readonly Part[] = wanted.length > 0 ? wanted : all;
const rest = process.argv.slice(2).filter((a) => !(all as readonly string[]).includes(a));
const sum = { passed: 0, failed: 0, skipped: 0 };
const work = await mkdtemp(path.join(os.tmpdir(), "amber-test-"));
const bin = (name: string): string => path.join(projectRoot, "node_modules", ".bin", name);

/** Runs a command with its output shown; says whether it ended well. */
function run(command: string, args: readonly string[], env: Readonly<Record<string, string>> = {}): Promise<boolean> {
  return new Promise((resolve) => {
    const child = spawn(command, [...args], { cwd: projectRoot, stdio: ["ignore", "inherit", "inherit"], env: { ...process.env, ...env } });
    child.on("error", () => resolve(false));
    child.on("exit", (code) => resolve(code === 0));
  });
}

async function check(name: string, act: () => Promise<boolean>): Promise<void> {
  const began = Date.now();
  console.log(`== ${name}`);
  const ok = await act();
  if (ok) sum.passed++;
  else sum.failed++;
  console.log(`== ${name}: ${ok ? "passed" : "FAILED"} in ${Math.round((Date.now() - began) / 1000)} s`);
}

async function jest(project: string, env: Readonly<Record<string, string>> = {}): Promise<void> {
  console.log(`== ${project} tests`);
  const out = path.join(work, `${project}.json`);
  const ok = await run(
    process.execPath,
    [
      "--experimental-vm-modules",
      "--no-warnings",
      path.join(projectRoot, "node_modules/jest/bin/jest.js"),
      "--selectProjects",
      project,
      "--json",
      `--outputFile=${out}`,
      ...rest,
    ],
    env,
  );
  const result = JSON.parse(await readFile(out, "utf8").catch(() => "{}")) as {
    numPassedTests?: number;
    numFailedTests?: number;
    numPendingTests?: number;
    numRuntimeErrorTestSuites?: number;
  };
  sum.passed += result.numPassedTests ?? 0;
  sum.failed += (result.numFailedTests ?? 0) + (result.numRuntimeErrorTestSuites ?? 0);
  sum.skipped += result.numPendingTests ?? 0;
  if (!ok && !result.numFailedTests && !result.numRuntimeErrorTestSuites) sum.failed++;
}

async function playwright(): Promise<void> {
  console.log("== end-to-end tests");
  const out = path.join(work, "e2e.json");
  const ok = await run(bin("playwright"), ["test", ...rest], {
    AMBER_E2E_JSON: out,
    AMBER_E2E_DATA: path.join(work, "e2e"),
    AMBER_E2E_PORT: String(await freePort()),
  });
  const result = JSON.parse(await readFile(out, "utf8").catch(() => "{}")) as {
    stats?: { expected: number; unexpected: number; flaky: number; skipped: number };
  };
  sum.passed += (result.stats?.expected ?? 0) + (result.stats?.flaky ?? 0);
  sum.failed += result.stats?.unexpected ?? 0;
  sum.skipped += result.stats?.skipped ?? 0;
  // Said, so that it is looked at: a journey that needs a second try has found something, if only a test that does not wait.
  if (result.stats?.flaky) console.log(`${result.stats.flaky} of them only at the second try; their names stand above as flaky`);
  if (!ok && !result.stats?.unexpected) sum.failed++;
}

try {
  if (parts.includes("lint")) await check("lint", () => run(bin("eslint"), [".", "--max-warnings", "0"]));
  if (parts.includes("types"))
    await check(
      "types",
      async () =>
        (await run(bin("tsc"), ["--noEmit", "--incremental", "false"])) && run(bin("tsc"), ["--noEmit", "-p", "src/core/tsconfig.json"]),
    );
  if (parts.includes("floors")) {
    await check("floors", () => run(bin("depcruise"), ["--config", ".dependency-cruiser.cjs", "src", "ops", "scenario"]));
    await check("core is pure, words are ours", () => run(process.execPath, ["--import", "tsx", "ops/check-floors.ts"]));
  }
  if (parts.includes("unit")) await jest("unit");
  if (parts.includes("db")) {
    const dataFolder = path.join(work, "db");
    const cluster = await startCluster(path.join(dataFolder, "postgres"), { dataFolder, isTest: true });
    try {
      await jest("db", { AMBER_TEST_DATABASE: cluster.url, AMBER_TEST_DATA: dataFolder });
    } finally {
      await cluster.kept.stop();
    }
  }
  if (parts.includes("e2e")) await playwright();
} catch (error) {
  console.error(error instanceof Error ? error.message : String(error));
  sum.failed++;
} finally {
  await rm(work, { recursive: true, force: true });
}
console.log(`${sum.passed} passed, ${sum.failed} failed, ${sum.skipped} skipped`);
process.exit(sum.failed > 0 ? 1 : 0);
