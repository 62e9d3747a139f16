import { type ChildProcess, spawn } from "node:child_process";
import path from "node:path";

/** A stand-in that runs as its own process. */
export interface StandIn {
  readonly url: string;
  readonly pid: number;
  /** Turns faults on; what is left out is turned off. */
  setFaults(faults: Readonly<Record<string, number | boolean>>): Promise<void>;
  /** Calls that came in so far. */
  calls(): Promise<number>;
  stop(): Promise<void>;
}

/** Until a stand-in has to answer, ms. For what hangs: beside much else a process may take a minute to start. */
const READY_MS = 170_000;

/** Starts a stand-in of `standins/` and waits until it answers. For tests and measurements; the demo keeps its own running. */
export async function startStandIn(
  kind: "webdav" | "bucket",
  options: { readonly port: number; readonly folder: string; readonly careless?: boolean },
): Promise<StandIn> {
  const root = path.resolve(import.meta.dirname, "..");
  // The bucket server makes its page tokens with an old cipher that OpenSSL keeps apart.
  const args = [
    "--openssl-legacy-provider",
    "--import",
    "tsx",
    `standins/${kind}.ts`,
    "--port",
    String(options.port),
    "--folder",
    options.folder,
    ...(options.careless ? ["--careless"] : []),
  ];
  const child = spawn(process.execPath, args, { cwd: root, stdio: ["ignore", "pipe", "pipe"], env: { ...process.env, NODE_OPTIONS: "" } });
  await isReady(child);
  const url = `http://127.0.0.1:${options.port}`;
  return {
    url,
    pid: child.pid ?? 0,
    async setFaults(faults) {
      const answered = await fetch(`${url}/.faults`, { method: "PUT", body: JSON.stringify(faults) });
      if (!answered.ok) throw new Error("the stand-in does not know these faults");
    },
    async calls() {
      return ((await (await fetch(`${url}/.faults`)).json()) as { calls: number }).calls;
    },
    async stop() {
      if (child.exitCode !== null) return;
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGTERM");
      await ended;
    },
  };
}

/** Waits until a stand-in says that it is ready; ends it when it does not. */
export function isReady(child: ChildProcess): Promise<void> {
  return new Promise((resolve, reject) => {
    let said = "";
    const timer = setTimeout(() => {
      child.kill("SIGKILL");
      reject(new Error(`the stand-in is not ready: ${said}`));
    }, READY_MS);
    const hear = (piece: Buffer): void => {
      said += piece.toString();
      if (!/^ready http/m.test(said)) return;
      clearTimeout(timer);
      resolve();
    };
    child.stdout?.on("data", hear);
    child.stderr?.on("data", hear);
    child.on("exit", (code) => {
      clearTimeout(timer);
      reject(new Error(`the stand-in ended with ${code}: ${said}`));
    });
  });
}
