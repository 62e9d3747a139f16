import { type ChildProcess, spawn } from "node:child_process";
import path from "node:path";
import { isReady } from "./start-standin.ts";

/** The stand-in business system as its own process, for tests. */
export interface BusinessStandIn {
  readonly url: string;
  readonly key: string;
  /** Sends something to its API as another program would. */
  call(method: string, path: string, body?: unknown): Promise<{ readonly status: number; readonly value: unknown }>;
  /** Turns faults on; what is left out is turned off. */
  setFaults(faults: Readonly<Record<string, number | boolean>>): Promise<void>;
  stop(): Promise<void>;
}

/** Starts it on a port with a database of its own. */
export async function startBusiness(options: {
  readonly port: number;
  readonly databaseUrl: string;
  readonly key: string;
  /** Where it tells of changes, and what it signs that with. */
  readonly hook?: { readonly url: string; readonly secret: string };
}): Promise<BusinessStandIn> {
  const root = path.resolve(import.meta.dirname, "..");
  const child: ChildProcess = spawn(
    process.execPath,
    [
      "--import",
      "tsx",
      "standins/business-system/main.ts",
      "--port",
      String(options.port),
      ...(options.hook ? ["--hook", options.hook.url] : []),
    ],
    {
      cwd: root,
      stdio: ["ignore", "pipe", "pipe"],
      env: {
        ...process.env,
        NODE_OPTIONS: "",
        BUSINESS_DATABASE_URL: options.databaseUrl,
        BUSINESS_KEY: options.key,
        ...(options.hook ? { BUSINESS_HOOK_SECRET: options.hook.secret } : {}),
      },
    },
  );
  await isReady(child);
  const url = `http://127.0.0.1:${options.port}`;
  const call: BusinessStandIn["call"] = async (method, at, body) => {
    const answered = await fetch(`${url}/api${at}`, {
      method,
      headers: { authorization: `Bearer ${options.key}` },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    return { status: answered.status, value: (await answered.json()) as unknown };
  };
  return {
    url,
    key: options.key,
    call,
    async setFaults(faults) {
      const set = await call("PUT", "/faults", faults);
      if (set.status !== 200) throw new Error("the stand-in does not know these faults");
    },
    async stop() {
      if (child.exitCode !== null) return;
      const ended = new Promise((resolve) => child.once("exit", resolve));
      child.kill("SIGTERM");
      await ended;
    },
  };
}
