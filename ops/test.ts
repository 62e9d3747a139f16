import { type ChildProcess, spawn } from "node:child_process";
import { mkdtemp, open, readFile, rm } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { migrateDatabase } from "#server/db/migrate.ts";
import { databaseBeside, startCluster } from "./postgres.ts";
import { freePort, projectRoot } from "./processes.ts";

const all = ["lint", "types", "floors", "unit", "db", "e2e"] as const;
type Part = (typeof all)[number];
const wanted = process.argv.slice(2).filter((a): a is Part => (all as readonly string[]).includes(a));
const parts: readonly Part[] = wanted.length > 0 ? wanted : all;
const rest = process.argv.slice(2).filter((a) => !(all as readonly string[]).includes(a));
const sum = { passed: 0, failed: 0, skipped: 0 };
/** Priority of what runs beside the journeys. Lower still, and on a slow machine it gets next to nothing: a server that a test starts was not up in two minutes. */
const GIVES_WAY = 10;
/** That of the database tests, which are one process and would otherwise still run when all else has ended. */
const GIVES_WAY_A_LITTLE = 5;
/**
 * That of the journeys, one after the other the longest of all, where it may be set: they wait half of the time, and what runs beside them takes that. Those with
 * demos of their own go back to the usual one.
 */
const GOES_FIRST = -5;
const port = await freePort();
const work = await mkdtemp(path.join(os.tmpdir(), "amber-test-"));
const bin = (name: string): string => path.join(projectRoot, "node_modules", ".bin", name);
/** Checks types in a quarter of the time of the compiler that the build still asks for, whose command has the same name. */
const compiler = path.join(projectRoot, "node_modules", "typescript-native", "bin", "tsc");

/** A warning is a failure, and so is an exception that nothing needs any more. */
const lintStrictly = ["--deny-warnings", "--report-unused-disable-directives"];

/** What was started and has not ended: it ends with us. */
const started = new Set<ChildProcess>();
let stopped = false;
for (const signal of ["SIGINT", "SIGTERM"] as const)
  process.on(signal, () => {
    for (const child of started) child.kill("SIGTERM");
    stopped = true;
  });

function ended(child: ChildProcess): Promise<boolean> {
  started.add(child);
  return new Promise((resolve) => {
    const end = (ok: boolean): void => {
      started.delete(child);
      resolve(ok);
    };
    child.on("error", () => end(false));
    // All it said has come by then.
    child.on("close", (code) => end(code === 0));
  });
}

/** What stands beside the journeys: it gives way to them, and says what it has to say when it has ended, so that lines do not mix. */
const isBeside = parts.includes("e2e") && parts.length > 1;

/** Runs a command with its output shown; says whether it ended well. */
async function run(
  command: string,
  args: readonly string[],
  env: Readonly<Record<string, string>> = {},
  beside = isBeside,
  priority = GIVES_WAY,
): Promise<boolean> {
  if (stopped) return false;
  const child = spawn(command, [...args], {
    cwd: projectRoot,
    stdio: ["ignore", beside ? "pipe" : "inherit", beside ? "pipe" : "inherit"],
    env: { ...process.env, ...env },
  });
  const said: Buffer[] = [];
  for (const stream of [child.stdout, child.stderr]) stream?.on("data", (piece: Buffer) => said.push(piece));
  if (child.pid !== undefined && (beside || priority < 0)) setPriority(child.pid, priority);
  const ok = await ended(child);
  if (said.length > 0) process.stdout.write(Buffer.concat(said));
  return ok;
}

/** Going before others is for those who may; without it all takes longer. */
function setPriority(pid: number, priority: number): void {
  try {
    os.setPriority(pid, priority);
  } catch (error) {
    if (priority >= 0) throw error;
  }
}

async function check(name: string, act: () => Promise<boolean>): Promise<void> {
  const began = Date.now();
  const ok = await act();
  if (ok) sum.passed++;
  else sum.failed++;
  console.log(`== ${name}: ${ok ? "passed" : "FAILED"} in ${Math.round((Date.now() - began) / 1000)} s`);
}

type Project = "unit" | "db" | "screens";

async function jest(project: Project, env: Readonly<Record<string, string>> = {}): Promise<void> {
  const began = Date.now();
  const out = path.join(work, `${project}.json`);
  const ok = await run(
    process.execPath,
    [
      // As the programs load TypeScript.
      "--import",
      "tsx",
      "--no-warnings",
      path.join(projectRoot, "node_modules/jest/bin/jest.js"),
      "--selectProjects",
      project,
      // One process, in one world: the runner's own further processes now and then wait for each other for ever.
      "--maxWorkers=1",
      // Notices of a screen that a test has left would fade by themselves, in ten seconds.
      ...(project === "screens" ? ["--forceExit"] : []),
      "--json",
      `--outputFile=${out}`,
      ...rest,
    ],
    env,
    isBeside,
    project === "db" ? GIVES_WAY_A_LITTLE : GIVES_WAY,
  );
  console.log(`== ${project} tests: ${Math.round((Date.now() - began) / 1000)} s`);
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

/** A migrated database that those of the tests are copies of. */
async function makeTemplate(clusterUrl: string): Promise<string> {
  const name = "migrated";
  await migrateDatabase(await databaseBeside(clusterUrl, name));
  return name;
}

/** Another with the set-up of the demo in it, which takes a second and a half of computing: most tests begin with it. */
async function makeSetUpTemplate(clusterUrl: string, template: string, dataFolder: string): Promise<string> {
  const name = "set_up";
  const settings = {
    AMBER_DATABASE_URL: await databaseBeside(clusterUrl, name, template),
    AMBER_DATA: dataFolder,
    AMBER_URL: "http://127.0.0.1:9",
    AMBER_SECRET: "only for tests, only for tests, only",
  };
  Object.assign(process.env, settings);
  const [{ fillSetUp }, { closeDb }] = await Promise.all([import("#scenario/set-up/fill-set-up.ts"), import("#server/db/connect.ts")]);
  await fillSetUp("http://127.0.0.1:9");
  await closeDb();
  // What is started beside it has settings of its own.
  for (const key of Object.keys(settings)) delete process.env[key];
  return name;
}

const journeys = { AMBER_E2E_DATA: path.join(work, "e2e"), AMBER_E2E_PORT: String(port) };

/** Builds and fills the journeys' demo, which takes as long as the checks that run beside it. What goes wrong is said when the journeys start it. */
async function prepareJourneys(): Promise<void> {
  const began = Date.now();
  const log = await open(path.join(work, "prepare.log"), "w");
  try {
    const child = spawn(process.execPath, ["--import", "tsx", "e2e/support/prepare.ts"], {
      cwd: projectRoot,
      stdio: ["ignore", log.fd, log.fd],
      env: { ...process.env, ...journeys },
    });
    if (child.pid !== undefined && isBeside) setPriority(child.pid, GOES_FIRST);
    await ended(child);
  } finally {
    await log.close();
  }
  console.log(`== demo of the journeys: ${Math.round((Date.now() - began) / 1000)} s`);
}

async function playwright(): Promise<void> {
  console.log("== end-to-end tests");
  const began = Date.now();
  const out = path.join(work, "e2e.json");
  const env = { ...journeys, AMBER_E2E_JSON: out };
  const ok = await run(bin("playwright"), ["test", ...rest], env, false, isBeside ? GOES_FIRST : 0);
  console.log(`== end-to-end tests: ${Math.round((Date.now() - began) / 1000)} s`);
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

/** What needs no database, one after the other. */
async function checks(): Promise<void> {
  if (parts.includes("lint")) await check("lint", () => run(bin("oxlint"), [".", ...lintStrictly]));
  if (parts.includes("types"))
    await check(
      "types",
      async () =>
        (await run(process.execPath, [compiler, "--noEmit", "--incremental", "false"])) &&
        run(process.execPath, [compiler, "--noEmit", "-p", "src/core/tsconfig.json"]),
    );
  if (parts.includes("floors")) {
    await check("floors", () => run(bin("depcruise"), ["--config", ".dependency-cruiser.cjs", "src", "ops", "scenario"]));
    await check("words", () => run(process.execPath, ["--import", "tsx", "ops/check-words.ts"]));
    await check("references", () => run(process.execPath, ["--import", "tsx", "ops/check-references.ts"]));
    await check("core is pure, names match", () => run(process.execPath, ["--import", "tsx", "ops/check-floors.ts"]));
  }
  if (parts.includes("unit")) {
    await jest("unit");
    await jest("screens");
  }
}

async function databaseTests(): Promise<void> {
  if (!parts.includes("db")) return;
  const dataFolder = path.join(work, "db");
  const cluster = await startCluster(path.join(dataFolder, "postgres"), { dataFolder, isTest: true });
  try {
    const template = await makeTemplate(cluster.url);
    await jest("db", {
      AMBER_TEST_DATABASE: cluster.url,
      AMBER_TEST_DATA: dataFolder,
      AMBER_TEST_TEMPLATE: template,
      AMBER_TEST_SET_UP: await makeSetUpTemplate(cluster.url, template, dataFolder),
    });
  } finally {
    await cluster.kept.stop();
  }
}

/** The journeys wait much of the time, for pages, clocks and the queue: the other checks run beside them, and give way. */
async function walk(): Promise<void> {
  if (!parts.includes("e2e")) return;
  await prepareJourneys();
  await playwright();
}

const outcomes = await Promise.allSettled([checks(), databaseTests(), walk()]);
for (const outcome of outcomes)
  if (outcome.status === "rejected") {
    console.error(outcome.reason instanceof Error ? outcome.reason.message : String(outcome.reason));
    sum.failed++;
  }
// What was ended by force may be writing its last line.
await rm(work, { recursive: true, force: true, maxRetries: 10, retryDelay: 500 });
console.log(`${sum.passed} passed, ${sum.failed} failed, ${sum.skipped} skipped`);
process.exit(sum.failed > 0 ? 1 : 0);
