import { readFile } from "node:fs/promises";
import path from "node:path";

/**
 * Takes the environment of the instance that runs on a data folder, for tools beside it; where the program is set up by its own environment, that goes.
 * Ends the process with 2 when nothing was ever started there.
 */
export async function takeEnvironmentOf(data: string): Promise<void> {
  if (process.env["AMBER_DATABASE_URL"]) return;
  const dataFolder = data === ".demo" ? path.resolve(".demo") : path.resolve(process.env["AMBER_CALLER_DIR"] ?? ".", data);
  const known = await readFile(path.join(dataFolder, "run", "environment.json"), "utf8").catch(() => null);
  if (known === null) {
    console.error(`no data in ${dataFolder}; name the folder with --data, or set AMBER_DATABASE_URL and the other settings`);
    process.exit(2);
  }
  Object.assign(process.env, JSON.parse(known) as Record<string, string>);
}
