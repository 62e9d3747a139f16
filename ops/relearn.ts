import { parseArgs } from "node:util";
import { takeEnvironmentOf } from "./environment-of.ts";

const { values } = parseArgs({ options: { data: { type: "string", default: ".demo" } } });
await takeEnvironmentOf(values.data);
const { relearn } = await import("#server/matching/relearn.ts");
const { closeDb } = await import("#server/db/connect.ts");
const { describeError } = await import("#server/db/describe-error.ts");
try {
  const { before, after } = await relearn();
  console.log(`${before} layouts were known, ${after} were learnt again`);
} catch (error) {
  console.error(`nothing was changed: ${describeError(error)}`);
  process.exitCode = 2;
} finally {
  await closeDb();
}
