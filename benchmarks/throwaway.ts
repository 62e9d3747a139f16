import { mkdtemp, rm } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { isTiny } from "./measure.ts";
import { type Instance, startInstance } from "#ops/instance.ts";
import { freePort } from "#ops/processes.ts";

/** Starts an instance with the demo's data in a folder of its own, does something with it, and leaves nothing behind; broken off, it still ends what it started. */
export async function withThrowaway(name: string, act: (instance: Instance, folder: string) => Promise<void>): Promise<void> {
  const folder = await mkdtemp(path.join(os.tmpdir(), `amber-${name}-`));
  const forget = (): Promise<void> => rm(folder, { recursive: true, force: true });
  try {
    const starting = startInstance({
      dataFolder: folder,
      port: await freePort(),
      fill: "demo",
      everyNth: isTiny ? 10 : 1,
      say: (line) => console.error(line),
    });
    for (const signal of ["SIGTERM", "SIGINT"] as const)
      process.once(
        signal,
        () =>
          void starting
            .then((started) => started.stop())
            .then(forget)
            .finally(() => process.exit(1)),
      );
    const instance = await starting;
    try {
      await act(instance, folder);
    } finally {
      await instance.stop();
    }
  } finally {
    await forget();
  }
}
