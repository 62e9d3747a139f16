import { type ChildProcess, spawn } from "node:child_process";
import { readFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import type { Credentials } from "#scenario/set-up/fill-set-up.ts";

/** A demo that runs as its own process, as a person starts it. */
export interface Demo {
  readonly url: string;
  readonly data: string;
  readonly credentials: Credentials;
  /** What it said until it was ready. */
  readonly said: string;
  /** Process id of what started everything. */
  readonly processId: number;
  /** Process id of one of its parts, as it is now. */
  pid(part: "web" | "worker" | "postgres"): Promise<number>;
  stop(): Promise<void>;
}

/** How long the start may take, with the build and the fill, ms. */
const READY_MS = 10 * 60_000;
const root = path.resolve(import.meta.dirname, "../..");

/** Starts `ops/demo.ts` and waits until it says that it is ready. */
export async function startDemo(options: {
  readonly port: number;
  readonly data: string;
  readonly empty?: boolean;
  /** It is not the one that the other journeys wait for, which may go before others. */
  readonly isBeside?: boolean;
}): Promise<Demo> {
  const args = [
    "--import",
    "tsx",
    "ops/demo.ts",
    "--port",
    String(options.port),
    "--data",
    options.data,
    ...(options.empty ? ["--empty"] : []),
  ];
  const child = spawn(process.execPath, args, {
    cwd: root,
    stdio: ["ignore", "pipe", "inherit"],
    env: { ...process.env, NODE_OPTIONS: "" },
  });
  if (options.isBeside && child.pid !== undefined) os.setPriority(child.pid, Math.max(0, os.getPriority(child.pid)));
  const said = await isReady(child);
  const credentials = JSON.parse(await readFile(path.join(options.data, "credentials.json"), "utf8")) as Credentials;
  return {
    url: credentials.url,
    data: options.data,
    credentials,
    said,
    processId: child.pid ?? 0,
    async pid(part) {
      const file = part === "postgres" ? path.join(options.data, "postgres", "pid") : path.join(options.data, "run", `${part}.pid`);
      return Number(await readFile(file, "utf8"));
    },
    async stop() {
      if (child.exitCode !== null) return;
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGTERM");
      await ended;
    },
  };
}

function isReady(child: ChildProcess): Promise<string> {
  return new Promise((resolve, reject) => {
    let said = "";
    const timer = setTimeout(() => {
      child.kill("SIGTERM");
      reject(new Error(`not ready in time: ${said}`));
    }, READY_MS);
    child.stdout?.on("data", (piece: Buffer) => {
      said += piece.toString();
      if (!/^ready http/m.test(said)) return;
      clearTimeout(timer);
      resolve(said);
    });
    child.on("exit", (code) => {
      clearTimeout(timer);
      reject(new Error(`the demo ended with ${code}: ${said}`));
    });
  });
}
