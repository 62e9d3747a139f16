import { type ChildProcess, spawn } from "node:child_process";
import { createWriteStream } from "node:fs";
import { readFile, writeFile } from "node:fs/promises";
import net from "node:net";
import path from "node:path";

/** A process that is kept running until `stop`. */
export interface Kept {
  readonly name: string;
  /** Process id now; changes when it was started again. */
  pid(): number | undefined;
  /** Ends it: a polite signal, then, after a while, a hard one. */
  stop(): Promise<void>;
}

export interface KeepOptions {
  readonly command: string;
  readonly args: readonly string[];
  readonly env: Readonly<Record<string, string>>;
  readonly logFile: string;
  /** Written where it runs, so that a later start finds what an earlier one that was killed left behind. */
  readonly pidFile: string;
  readonly stopSignal?: NodeJS.Signals;
  readonly cwd?: string;
}

/** How long a process may take to end by itself, ms. */
const POLITE_MS = 8000;
/** A process that dies is started again after this, ms; longer each time, up to a limit. */
const AGAIN_MS = 300;

/** Starts a process in a group of its own (Ctrl-C reaches only us) and starts it again when it dies. */
export function keepRunning(name: string, options: KeepOptions): Kept {
  let child: ChildProcess | null = null;
  let stopping = false;
  let deaths = 0;
  const log = createWriteStream(options.logFile, { flags: "a" });
  const start = (): void => {
    const startedAt = Date.now();
    const begun = spawn(options.command, [...options.args], {
      env: { NODE_ENV: "production", ...options.env },
      stdio: ["ignore", "pipe", "pipe"],
      detached: true,
      cwd: options.cwd,
    });
    child = begun;
    begun.stdout?.pipe(log, { end: false });
    begun.stderr?.pipe(log, { end: false });
    if (begun.pid !== undefined) void writeFile(options.pidFile, String(begun.pid));
    begun.on("error", (error) => log.write(`${name} could not be started: ${error.message}\n`));
    begun.on("exit", () => {
      if (stopping) return;
      deaths = Date.now() - startedAt > 30_000 ? 0 : deaths + 1;
      setTimeout(() => !stopping && start(), Math.min(AGAIN_MS * 2 ** Math.min(deaths, 5), 5000));
    });
  };
  start();
  return {
    name,
    pid: () => child?.pid,
    async stop() {
      stopping = true;
      const running = child;
      if (!running || running.exitCode !== null || running.signalCode !== null) return;
      const ended = new Promise<void>((resolve) => running.once("exit", () => resolve()));
      running.kill(options.stopSignal ?? "SIGTERM");
      const timer = setTimeout(() => running.kill("SIGKILL"), POLITE_MS);
      await ended;
      clearTimeout(timer);
      log.end();
    },
  };
}

/** Ends what an earlier start in the same data folder left behind when it was killed: only a process whose environment names this folder. */
export async function endLeftOver(pidFile: string, dataFolder: string): Promise<void> {
  const pid = Number(await readFile(pidFile, "utf8").catch(() => ""));
  if (!Number.isInteger(pid) || pid <= 1) return;
  const environment = await readFile(`/proc/${pid}/environ`, "utf8").catch(() => "");
  if (!environment.split("\0").includes(`AMBER_DATA=${dataFolder}`)) return;
  for (const signal of ["SIGTERM", "SIGKILL"] as const) {
    try {
      process.kill(pid, signal);
    } catch {
      return;
    }
    if (await waitFor(async () => !isAlive(pid), 5000)) return;
  }
}

/** Whether a process of this id runs. */
export function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}

/** Asks again and again until it is so or the time is over; says which. */
export async function waitFor(isSo: () => Promise<boolean>, timeoutMs: number, everyMs = 100): Promise<boolean> {
  const until = Date.now() + timeoutMs;
  for (;;) {
    if (await isSo().catch(() => false)) return true;
    if (Date.now() > until) return false;
    await new Promise((resolve) => setTimeout(resolve, everyMs));
  }
}

/** A port on loopback that nobody listens on now. */
export function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const server = net.createServer();
    server.on("error", reject);
    server.listen(0, "127.0.0.1", () => {
      const address = server.address();
      server.close(() => (address && typeof address === "object" ? resolve(address.port) : reject(new Error("no port"))));
    });
  });
}

/** Whether a port on loopback can be listened on. */
export function isPortFree(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const server = net.createServer();
    server.on("error", () => resolve(false));
    server.listen(port, "127.0.0.1", () => server.close(() => resolve(true)));
  });
}

/** The project's root folder. */
export const projectRoot = path.resolve(import.meta.dirname, "..");
