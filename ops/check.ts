import { readFile } from "node:fs/promises";
import path from "node:path";
import { parseArgs } from "node:util";

const { values } = parseArgs({ options: { data: { type: "string", default: ".demo" }, repair: { type: "boolean", default: false } } });
const dataFolder = values.data === ".demo" ? path.resolve(".demo") : path.resolve(process.env["AMBER_CALLER_DIR"] ?? ".", values.data);
// Where the program is set up by its environment, that goes; else the environment of the demo that runs on this folder.
if (!process.env["AMBER_DATABASE_URL"]) {
  const known = await readFile(path.join(dataFolder, "run", "environment.json"), "utf8").catch(() => null);
  if (known === null) {
    console.error(
      `nothing was ever started in ${dataFolder}; name the folder with --data, or set AMBER_DATABASE_URL and the other settings`,
    );
    process.exit(2);
  }
  Object.assign(process.env, JSON.parse(known) as Record<string, string>);
}
const { checkKept } = await import("#server/check/check-kept.ts");
const { closeDb } = await import("#server/db/connect.ts");
const { describeError } = await import("#server/db/describe-error.ts");
try {
  const checks = await checkKept({ repair: values.repair });
  for (const c of checks)
    console.log(`${c.what}: ${c.differences === 0 ? "agree" : `${c.differences} differ${c.repaired ? ", put right" : ""}`}`);
  process.exitCode = checks.some((c) => c.differences > 0 && !c.repaired) ? 1 : 0;
} catch (error) {
  console.error(`the check could not be made: ${describeError(error)}`);
  process.exitCode = 2;
} finally {
  await closeDb();
}
