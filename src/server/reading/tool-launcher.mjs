/**
 * A small process that starts outside programs for a large one. Starting a program copies the page tables of whoever starts it: 2 ms
 * from here, 20 to 50 ms from a process that holds some hundred megabytes, and it stands still meanwhile (measured; see decision 0004).
 * Plain JavaScript without a loader, so that it is small itself. Speaks over the channel of child_process.fork; ends with its parent.
 */
import { spawn } from "node:child_process";

/** Bytes of what a program says went wrong that are kept. */
const STDERR_MAX = 4000;
const running = new Set();

process.on("message", ({ id, command, args, env, timeoutMs, stdoutMax }) => {
  const child = spawn(command, args, { stdio: ["ignore", "pipe", "pipe"], env });
  running.add(child);
  const out = [];
  let bytes = 0;
  let stderr = "";
  let stopped = null;
  let answered = false;
  const answer = (message) => {
    if (answered) return;
    answered = true;
    clearTimeout(timer);
    running.delete(child);
    if (process.connected) process.send({ id, ...message });
  };
  const timer = setTimeout(() => {
    stopped = "too-slow";
    child.kill("SIGKILL");
  }, timeoutMs);
  child.stdout.on("data", (piece) => {
    bytes += piece.length;
    if (bytes > stdoutMax) {
      stopped ??= "too-much";
      child.kill("SIGKILL");
    } else out.push(piece);
  });
  child.stderr.on("data", (piece) => {
    if (stderr.length < STDERR_MAX) stderr += piece.toString("utf8").slice(0, STDERR_MAX);
  });
  child.on("error", (error) => answer({ failed: error.code ?? "unknown" }));
  child.on("close", (exitCode, signal) => {
    // What it may compute is counted by the system.
    if (signal === "SIGXCPU") stopped ??= "too-slow";
    answer({ exitCode, stdout: Buffer.concat(out), stderr, stopped });
  });
});

process.on("disconnect", () => {
  for (const child of running) child.kill("SIGKILL");
  process.exit(0);
});
