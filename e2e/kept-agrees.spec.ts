import { spawnSync } from "node:child_process";
import path from "node:path";
import { expect, test } from "@playwright/test";

const root = path.resolve(import.meta.dirname, "..");

test("the check of what is kept says that all agrees, on the demo data after all the other journeys", async () => {
  test.setTimeout(180_000);
  const check = () => {
    const said = spawnSync(process.execPath, ["--import", "tsx", "ops/check.ts", "--data", process.env["AMBER_E2E_DATA"] ?? ""], {
      cwd: root,
      encoding: "utf8",
    });
    return {
      status: said.status,
      lines: said.stdout
        .trim()
        .split("\n")
        .map((line) => line.split(": ")[1]),
    };
  };
  // What the last journey has begun may still be on its way.
  await expect
    .poll(check, { timeout: 120_000, intervals: [2000] })
    .toEqual({ status: 0, lines: ["agree", "agree", "agree", "agree", "agree", "agree", "agree", "agree"] });
});
