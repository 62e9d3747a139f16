import { spawnSync } from "node:child_process";
import { mkdtemp, readdir, readFile, rm, stat, writeFile } from "node:fs/promises";
import net from "node:net";
import os from "node:os";
import path from "node:path";
import { expect, test } from "@playwright/test";
import { freePort, isAlive } from "#ops/processes.ts";
import { startDemo } from "./support/demo.ts";

const root = path.resolve(import.meta.dirname, "..");
let folder = "";
test.beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), "amber-commands-"));
});
test.afterEach(async () => {
  await rm(folder, { recursive: true, force: true });
});
const demo = (...args: string[]) =>
  spawnSync(process.execPath, ["--import", "tsx", "ops/demo.ts", ...args], { cwd: root, encoding: "utf8", timeout: 60_000 });

test("the demo starts beside another one, is started again in seconds, and ends all it started and nothing else", async () => {
  test.setTimeout(180_000);
  const port = await freePort();
  const firstBegan = Date.now();
  const first = await startDemo({ port, data: folder, empty: true, isBeside: true });
  const firstTook = Date.now() - firstBegan;
  expect(first.credentials.url).toBe(`http://127.0.0.1:${port}`);
  expect(first.credentials.people.length).toBeGreaterThanOrEqual(5);
  expect(Object.keys(first.credentials.keys).sort()).toEqual(["administrator", "clerk", "lightUser"]);
  const headers = { authorization: `Bearer ${first.credentials.keys.administrator}` };
  const counts = (await (await fetch(`${first.url}/api/v1/register?limit=1`, { headers })).json()) as { total: number };
  expect(counts.total).toBe(0);
  const pids = await Promise.all((["web", "worker", "postgres"] as const).map((part) => first.pid(part)));
  expect(pids.every(isAlive)).toBe(true);
  await first.stop();
  for (const pid of pids) expect(isAlive(pid)).toBe(false);

  const built = await stat(path.join(root, ".next", "BUILD_ID"));
  const other = await freePort();
  const began = Date.now();
  const second = await startDemo({ port: other, data: folder, empty: true, isBeside: true });
  // Seconds, on a machine that has nothing else to do; what makes it so is that nothing is built or filled again. On one that is busy, sooner than the first.
  expect(second.said).not.toContain("Filling");
  expect((await stat(path.join(root, ".next", "BUILD_ID"))).mtimeMs).toBe(built.mtimeMs);
  expect(Date.now() - began).toBeLessThan(Math.max(25_000, firstTook));
  expect(second.credentials.url).toBe(`http://127.0.0.1:${other}`);
  expect((await fetch(`${second.url}/api/v1/me`, { headers })).status).toBe(200);
  const left = await second.pid("worker");
  // Killed as hard as it goes, it leaves its parts behind; the next start in the folder ends them first.
  process.kill(second.processId, "SIGKILL");
  const third = await startDemo({ port: other, data: folder, empty: true, isBeside: true });
  expect(isAlive(left)).toBe(false);
  expect((await fetch(`${third.url}/api/v1/health`)).status).toBe(200);
  await third.stop();
});

test("--fresh forgets only a folder that is ours", async () => {
  await writeFile(path.join(folder, "thesis.txt"), "years of work");
  const said = demo("--fresh", "--data", folder, "--port", String(await freePort()));
  expect(said.status).toBe(1);
  expect(said.stderr).toContain("was not created by bin/demo");
  expect(await readFile(path.join(folder, "thesis.txt"), "utf8")).toBe("years of work");
});

test("a port that is taken, or that browsers refuse, or that is none, is said before anything is started", async () => {
  const server = net.createServer();
  const port = await freePort();
  await new Promise<void>((resolve) => server.listen(port, "127.0.0.1", resolve));
  try {
    const taken = demo("--data", folder, "--port", String(port));
    expect(taken.status).toBe(1);
    expect(taken.stderr).toContain(`port ${port} is in use`);
  } finally {
    server.close();
  }
  expect(demo("--data", folder, "--port", "6667").stderr).toContain("browsers refuse");
  expect(demo("--data", folder, "--port", "none").stderr).toContain("--port takes a number");
  expect(demo("--help").stdout).toContain("--fresh");
  expect((await readdir(folder)).includes("postgres")).toBe(false);
});
