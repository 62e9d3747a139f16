import { setTimeout as pause } from "node:timers/promises";
import { type Demo, startDemo } from "./demo.ts";

/** How long reading what waits in a new demo may take, ms. */
const READ_MS = 8 * 60_000;

/**
 * Builds and fills the demo that the journeys will start, lets it read what waits, and stops it again: bin/test does so while other checks run. What goes
 * wrong is said when the journeys start it.
 */
const stopped = new AbortController();
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => stopped.abort());
const demo = await startDemo({ port: Number(process.env["AMBER_E2E_PORT"]), data: process.env["AMBER_E2E_DATA"] ?? "" });
await allRead(demo).catch(() => {});
await demo.stop();
process.exit(0);

async function allRead({ url, credentials }: Demo): Promise<void> {
  const headers = { authorization: `Bearer ${credentials.keys.administrator}` };
  for (const until = Date.now() + READ_MS; Date.now() < until && !stopped.signal.aborted; await pause(1000)) {
    const answer = await fetch(`${url}/api/v1/arrivals?state=waiting,reading&limit=1`, { headers });
    if (((await answer.json()) as { items: readonly unknown[] }).items.length === 0) return;
  }
}
