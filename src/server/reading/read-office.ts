import { z } from "zod";
import { keptBody, problemOnly, type Reader } from "./read-outcome.ts";
import { officeProgram } from "./office-program.ts";
import { runTool } from "./run-tool.ts";

/** Longest time for one office file, ms. */
const TIMEOUT_MS = 45_000;

const answerSchema = z.object({
  text: z.string(),
  sheets: z.array(z.object({ name: z.string(), rows: z.array(z.array(z.string())), truncated: z.boolean() })).nullable(),
});

/** Reads a docx or xlsx in a process of its own, since a small hostile file can unpack to all the memory there is. */
export const readOffice: Reader = async (file, options) => {
  const outcome = await runTool(
    process.execPath,
    ["--max-old-space-size=700", ...officeProgram(), options.kind.startsWith("doc") ? "docx" : "xlsx", file],
    {
      timeoutMs: TIMEOUT_MS,
      stdoutMax: 64 * 1024 * 1024,
    },
    { memoryMax: null },
  );
  if (outcome.stopped === "too-slow") return problemOnly("too-slow");
  if (outcome.exitCode !== 0 || outcome.stopped) return problemOnly("broken");
  const answer = answerSchema.safeParse(JSON.parse(outcome.stdout.toString("utf8")));
  if (!answer.success) return problemOnly("broken");
  const { body, truncated } = keptBody(answer.data.text);
  const { sheets } = answer.data;
  const cut = truncated || (sheets?.some((s) => s.truncated) ?? false);
  return {
    pages: 1,
    pageTexts: [],
    body,
    outline: sheets ? { kind: "table", sheets } : { kind: "text" },
    problem: cut ? { code: "truncated", detail: null } : null,
  };
};
