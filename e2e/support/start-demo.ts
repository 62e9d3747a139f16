import os from "node:os";
import path from "node:path";
import { type Demo, startDemo } from "./demo.ts";

/** What waits in a fresh demo is read within this, ms. */
const READ_MS = 8 * 60_000;
const LOOK_EVERY_MS = 1000;

/**
 * One demo for all journeys, with everything that waits in it read. Answers what stops it. Not a project that others depend on: those would not begin
 * before all that depend on nothing have ended, and so never run beside them.
 */
export default async function startForAll(): Promise<() => Promise<void>> {
  const port = Number(process.env["AMBER_E2E_PORT"] ?? 4179);
  const data = process.env["AMBER_E2E_DATA"] ?? path.join(os.tmpdir(), "amber-e2e");
  process.env["AMBER_E2E_DATA"] = data;
  const demo = await startDemo({ port, data });
  try {
    await allRead(demo);
  } catch (error) {
    await demo.stop();
    throw error;
  }
  return () => demo.stop();
}

async function allRead(demo: Demo): Promise<void> {
  const headers = { authorization: `Bearer ${demo.credentials.keys.administrator}` };
  for (const until = Date.now() + READ_MS; ;) {
    const answer = await fetch(`${demo.url}/api/v1/arrivals?state=waiting,reading&limit=1`, { headers });
    const { items } = (await answer.json()) as { items: readonly unknown[] };
    if (items.length === 0) return;
    if (Date.now() > until) throw new Error("what waits in the demo was not read in time");
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  }
}
