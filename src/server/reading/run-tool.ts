import { type ChildProcess, spawn } from "node:child_process";
import { existsSync } from "node:fs";
import path from "node:path";
import { z } from "zod";
import { AppError } from "../ports/app-error.ts";

/** How an outside program ended. */
export interface ToolOutcome {
  readonly exitCode: number | null;
  readonly stdout: Buffer;
  readonly stderr: string;
  /** Stopped by us: it ran too long, or printed more than it may. */
  readonly stopped: "too-slow" | "too-much" | null;
}

/** Memory an outside program may take, bytes: a hostile file must not take the machine with it. */
const MEMORY_MAX = 2 * 1024 ** 3;
/** What may pass on the clock, as a multiple of what may be computed: a sound document stays sound on a machine that is busy with others. */
const CLOCK = 4;
/** Seconds between the word that its time is over and its end. */
const LAST_WORD = 2;
/** Where the launcher stands in the project, in steps. */
const LAUNCHER = ["src", "server", "reading", "tool-launcher.mjs"];
const hasPrlimit = existsSync("/usr/bin/prlimit");

const messageSchema = z.union([
  z.object({ id: z.number(), failed: z.string() }),
  z.object({
    id: z.number(),
    exitCode: z.number().nullable(),
    stdout: z.instanceof(Uint8Array),
    stderr: z.string(),
    stopped: z.enum(["too-slow", "too-much"]).nullable(),
  }),
]);
type Message = z.infer<typeof messageSchema>;

interface Launcher {
  readonly process: ChildProcess;
  readonly waiting: Map<number, { readonly answer: (message: Message) => void; readonly fail: (error: Error) => void }>;
}
const shared = globalThis as typeof globalThis & { amberLauncher?: Launcher | undefined };
let nextId = 1;

/**
 * Runs an outside program on a hostile file: no shell, limits on time, memory and output, nothing of our environment but the
 * path. `timeoutMs` is what it may compute; four times as much may pass on the clock, or `clockMs`. `fileMax` are the bytes of a file it may write; `gently` runs it at low
 * priority. Never fails for what the program does; throws AppError `reader-missing` when it is not installed.
 */
export async function runTool(
  program: string,
  args: readonly string[],
  limits: { readonly timeoutMs: number; readonly stdoutMax: number; readonly clockMs?: number },
  options: { readonly memoryMax?: number | null; readonly fileMax?: number; readonly gently?: boolean } = {},
): Promise<ToolOutcome> {
  const answer = await launch({
    ...fenced(program, args, { ...options, seconds: Math.ceil(limits.timeoutMs / 1000) }),
    env: toolEnvironment(),
    timeoutMs: limits.clockMs ?? limits.timeoutMs * CLOCK,
    stdoutMax: limits.stdoutMax,
  });
  const isMissing = "failed" in answer ? answer.failed === "ENOENT" : saysMissing(answer);
  if (isMissing) throw new AppError("reader-missing", "never", `${program} is not installed`);
  if ("failed" in answer) throw new AppError("reader-failed", "later", `${program} could not be started: ${answer.failed}`);
  return { ...answer, stdout: Buffer.from(answer.stdout) };
}

/** What an outside program is given of our environment: the path. */
export const toolEnvironment = () => ({
  NODE_ENV: "production" as const,
  PATH: process.env["PATH"] ?? "/usr/bin:/bin",
  LC_ALL: "C.UTF-8",
  OMP_THREAD_LIMIT: "1",
});

/** How an outside program is started so that a hostile file does not take the machine with it. `seconds` is what it may compute. */
export function fenced(
  program: string,
  args: readonly string[],
  options: {
    readonly memoryMax?: number | null;
    readonly fileMax?: number;
    readonly gently?: boolean;
    readonly seconds?: number;
  },
): { readonly command: string; readonly args: string[] } {
  if (!hasPrlimit) return { command: program, args: [...args] };
  const memoryMax = options.memoryMax === undefined ? MEMORY_MAX : options.memoryMax;
  const fences = [
    ...(memoryMax === null ? [] : [`--as=${memoryMax}`]),
    ...(options.fileMax === undefined ? [] : [`--fsize=${options.fileMax}`]),
    ...(options.seconds === undefined ? [] : [`--cpu=${options.seconds}:${options.seconds + LAST_WORD}`]),
    "--core=0",
    "--",
    // What is long and nobody waits for leaves the cores to those who do.
    ...(options.gently === true ? ["nice", "-n", "10"] : []),
  ];
  return { command: "prlimit", args: [...fences, program, ...args] };
}

/** Whether a program that was started behind fences ended because it is not installed. Which of the codes it is depends on the fence's version. */
export const saysMissing = ({ exitCode, stderr }: { readonly exitCode: number | null; readonly stderr: string }): boolean =>
  ((exitCode === 1 || exitCode === 127) && /^prlimit: failed to execute/.test(stderr)) ||
  (exitCode === 127 && /^(nice|stdbuf): .*No such file/.test(stderr));

/** Whether a program could not write what it made: it says so, and some end as if all were well. */
export const ranOutOfSpace = ({ stderr }: { readonly stderr: string }): boolean =>
  /no space left|out of disk space|could not write/i.test(stderr);

function launch(wish: Readonly<Record<string, unknown>>): Promise<Message> {
  const launcher = (shared.amberLauncher ??= startLauncher());
  const id = nextId++;
  return new Promise((answer, fail) => {
    launcher.waiting.set(id, { answer, fail });
    // While something runs the launcher keeps this process alive, and not a moment longer.
    launcher.process.ref();
    launcher.process.channel?.ref();
    launcher.process.send({ id, ...wish }, (error) => {
      if (error && launcher.waiting.delete(id)) fail(new AppError("reader-failed", "later", "the launcher does not answer", error));
    });
  });
}

function startLauncher(): Launcher {
  // By its path in the project: bundled code stands somewhere else than its source, and every process of ours starts in the project's folder.
  const file = path.join(/* turbopackIgnore: true */ process.cwd(), ...LAUNCHER);
  // Not fork(): the bundler takes its argument for a module of its own and follows it.
  const child = spawn(process.execPath, [file], {
    serialization: "advanced",
    stdio: ["ignore", "ignore", "inherit", "ipc"],
    env: { PATH: process.env["PATH"] ?? "/usr/bin:/bin", NODE_ENV: "production" },
  });
  const launcher: Launcher = { process: child, waiting: new Map() };
  child.on("message", (value) => {
    const message = messageSchema.parse(value);
    const asked = launcher.waiting.get(message.id);
    launcher.waiting.delete(message.id);
    if (launcher.waiting.size === 0) {
      child.unref();
      child.channel?.unref();
    }
    asked?.answer(message);
  });
  const gone = (): void => {
    if (shared.amberLauncher === launcher) shared.amberLauncher = undefined;
    for (const asked of launcher.waiting.values()) asked.fail(new AppError("reader-failed", "later", "the launcher ended"));
    launcher.waiting.clear();
  };
  child.on("error", gone);
  child.on("exit", gone);
  return launcher;
}
