import { runTool } from "./run-tool.ts";

const limits = (timeoutMs: number) => ({ timeoutMs, stdoutMax: 1000 });

describe("An outside program", () => {
  test("is answered with what it prints and how it ended", async () => {
    const run = await runTool("bash", ["-c", "echo read; echo broken >&2; exit 3"], limits(10_000));
    expect(run).toMatchObject({ exitCode: 3, stderr: "broken\n", stopped: null });
    expect(run.stdout.toString()).toBe("read\n");
  });
  test("that computes without end is stopped by what it may compute, as too slow", async () => {
    const began = Date.now();
    const run = await runTool("bash", ["-c", "while :; do :; done"], limits(1000));
    expect(run.stopped).toBe("too-slow");
    expect(run.exitCode).toBeNull();
    expect(Date.now() - began).toBeGreaterThan(900);
  });
  test("that only waits is stopped by the clock, later", async () => {
    const began = Date.now();
    const run = await runTool("sleep", ["600"], limits(250));
    expect(run.stopped).toBe("too-slow");
    expect(Date.now() - began).toBeGreaterThanOrEqual(950);
  });
  test("that waits a while and then does its work is not, as on a busy machine", async () => {
    const run = await runTool("bash", ["-c", "sleep 0.8; echo done"], limits(400));
    expect(run).toMatchObject({ exitCode: 0, stopped: null });
  });
  test("that prints more than it may is stopped", async () => {
    const run = await runTool("bash", ["-c", "while :; do echo more and more; done"], limits(10_000));
    expect(run.stopped).toBe("too-much");
  });
  test("that is not installed is said to be missing", async () => {
    await expect(runTool("no-such-program-here", [], limits(1000))).rejects.toMatchObject({ code: "reader-missing" });
  });
});
