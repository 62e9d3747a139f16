import { startDemo } from "./demo.ts";

/**
 * Builds and fills the demo that the journeys will start, and stops it again: bin/test does so while other checks run. What goes wrong is said when the
 * journeys start it.
 */
for (const signal of ["SIGINT", "SIGTERM"] as const) process.on(signal, () => {});
const demo = await startDemo({ port: Number(process.env["AMBER_E2E_PORT"]), data: process.env["AMBER_E2E_DATA"] ?? "" });
await demo.stop();
process.exit(0);
