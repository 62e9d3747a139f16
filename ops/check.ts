import { parseArgs } from "node:util";
import { takeEnvironmentOf } from "./environment-of.ts";

const { values } = parseArgs({ options: { data: { type: "string", default: ".demo" }, repair: { type: "boolean", default: false } } });
await takeEnvironmentOf(values.data);
const { checkKept } = await import("#server/check/check-kept.ts");
const { closeDb } = await import("#server/db/connect.ts");
const { describeError } = await import("#server/db/describe-error.ts");
try {
  const checks = await checkKept({ repair: values.repair });
  for (const c of checks)
    console.log(`${c.what}: ${c.differences === 0 ? "agree" : `${c.differences} differ${c.repaired ? ", repaired" : ""}`}`);
  process.exitCode = checks.some((c) => c.differences > 0 && !c.repaired) ? 1 : 0;
} catch (error) {
  console.error(`the check failed: ${describeError(error)}`);
  process.exitCode = 2;
} finally {
  await closeDb();
}
