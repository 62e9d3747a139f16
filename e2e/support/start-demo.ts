import os from "node:os";
import path from "node:path";
import { startDemo } from "./demo.ts";

/** One demo for all journeys. Answers what stops it. */
export default async function startForAll(): Promise<() => Promise<void>> {
  const port = Number(process.env["AMBER_E2E_PORT"] ?? 4179);
  const data = process.env["AMBER_E2E_DATA"] ?? path.join(os.tmpdir(), "amber-e2e");
  process.env["AMBER_E2E_DATA"] = data;
  const demo = await startDemo({ port, data });
  return () => demo.stop();
}
