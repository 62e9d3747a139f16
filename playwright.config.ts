import { defineConfig } from "@playwright/test";
import { chromiumFlags, chromiumPath } from "./e2e/support/chromium.ts";

/** What has demos of its own, and what only looks at the one that the others share. */
const beside = ["**/benchmarks.spec.ts", "**/commands.spec.ts", "**/every-view.spec.ts", "**/nothing-lost.spec.ts"];
/** What leaves much to be read, which the others would wait for, and what looks at all that they have left. */
const afterwards = ["**/many-files.spec.ts", "**/kept-agrees.spec.ts"];
const port = process.env["AMBER_E2E_PORT"] ?? "4179";

/** The real interface in a real browser, on the demo data of an instance that is started for it and stopped again. */
export default defineConfig({
  testDir: "e2e",
  projects: [
    // One at a time, since they share one demo.
    { name: "journeys", testMatch: "**/*.spec.ts", testIgnore: [...beside, ...afterwards], workers: 1 },
    // These disturb nobody, and so run beside the others.
    { name: "beside", testMatch: beside, workers: 1 },
    // Projects that depend on none run side by side; this one begins when both have ended.
    { name: "afterwards", testMatch: afterwards, dependencies: ["journeys"], workers: 1 },
  ],
  globalSetup: "./e2e/support/start-demo.ts",
  outputDir: "test-results",
  reporter: [["list"], ...(process.env["AMBER_E2E_JSON"] ? [["json", { outputFile: process.env["AMBER_E2E_JSON"] }] as const] : [])],
  // One browser at a time, mostly, and what needs none: the two cores also carry the web process, the worker and the database.
  workers: 2,
  fullyParallel: false,
  // On a machine shared with others a journey now and then meets a pause of many seconds; bin/test says how many needed a second try.
  retries: process.env["CI"] || process.env["AMBER_E2E_JSON"] ? 1 : 0,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    timezoneId: "Europe/London",
    permissions: ["clipboard-read", "clipboard-write"],
    // Tracing every journey costs as much again as the browser itself: only a second try is traced, or all with AMBER_E2E_TRACE=on.
    trace: process.env["AMBER_E2E_TRACE"] === "on" ? "on" : "on-first-retry",
    launchOptions: { executablePath: chromiumPath, args: [...chromiumFlags] },
  },
});
